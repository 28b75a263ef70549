/** How much of a circle is filled: all of it holds, half is in doubt, nothing fails. */
const FILLED: Record<string, string> = {
  holds: "M6 1a5 5 0 0 1 0 10a5 5 0 0 1 0-10z",
  "in doubt": "M6 1a5 5 0 0 0 0 10z",
  fails: "",
};

/** The shape of a verdict, drawn: letters of that form are missing from many fonts. */
export function VerdictIcon({ verdict }: { verdict: string }) {
  const filled = FILLED[verdict];
  return (
    <svg
      viewBox="0 0 12 12"
      width="0.8em"
      height="0.8em"
      className="verdict-icon"
      aria-hidden="true"
    >
      {filled === undefined ? (
        <path d="M2 6h8" stroke="currentColor" strokeWidth="1.3" />
      ) : (
        <>
          <circle cx="6" cy="6" r="5" fill="none" stroke="currentColor" strokeWidth="1.3" />
          {filled ? <path d={filled} fill="currentColor" /> : null}
        </>
      )}
    </svg>
  );
}
