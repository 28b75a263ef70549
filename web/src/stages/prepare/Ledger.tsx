import type { Ledger as LedgerData } from "../../api/types";
import { whole } from "../../numbers/format";
import { Section } from "../../readings/Readings";

/** Where the rows went: bars that shrink, each line with its number. */
export function Ledger({ ledger }: { ledger: LedgerData }) {
  let left = ledger.read;
  const lines = ledger.lost.map(({ why, rows, becomes }) => {
    left = becomes ?? left - rows;
    return {
      words: becomes === null ? `−${whole(rows)} ${why}` : `${why}: ${whole(left)} rows`,
      left,
    };
  });
  const most = Math.max(ledger.read, ...lines.map((line) => line.left), 1);
  return (
    <Section title="Where the rows went">
      <ul className="ledger">
        <li>
          <span className="ledger-bar" style={{ width: `${(100 * ledger.read) / most}%` }} />
          <span>{whole(ledger.read)} read</span>
        </li>
        {lines.map(({ words, left: now }, k) => (
          <li key={k}>
            <span className="ledger-bar" style={{ width: `${(100 * now) / most}%` }} />
            <span>{words}</span>
          </li>
        ))}
      </ul>
      <p>
        <b>
          {ledger.analysed === null
            ? "Not analysed yet: see what must be decided."
            : `${whole(ledger.analysed)} analysed`}
        </b>
        {ledger.standing_for ? `, standing for ${whole(ledger.standing_for)} subjects` : ""}
        {ledger.cut_short ? (
          <span className="quiet">
            {" "}
            · {whole(ledger.cut_short)} followed less long than they could be, by decision
          </span>
        ) : null}
      </p>
    </Section>
  );
}
