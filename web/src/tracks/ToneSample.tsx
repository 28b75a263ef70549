import { toneColour, toneDash } from "../theme/tones";

/** A piece of a line in a tone and a dash, and the name of the tone. */
export function ToneSample({ tone, dash, name }: { tone: number; dash: number; name: string }) {
  return (
    <span className="tone-choice">
      <svg width={46} height={10} aria-hidden="true">
        <path
          d="M0 5H46"
          stroke={toneColour(tone)}
          strokeWidth={2}
          strokeDasharray={toneDash(dash)}
        />
      </svg>
      {name}
    </span>
  );
}
