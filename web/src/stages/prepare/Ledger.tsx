import type { Ledger as LedgerData } from "../../api/types";
import { grouped } from "../../numbers/format";
import { Section } from "../../readings/Readings";
import "./Ledger.css";

/** Rows read, set aside and analysed: bars that shrink, each line with its number. */
export function Ledger({ ledger }: { ledger: LedgerData }) {
  let left = ledger.read;
  const lines = ledger.lost.map(({ why, rows, becomes }) => {
    left = becomes ?? left - rows;
    return {
      words: becomes === null ? `−${grouped(rows)} ${why}` : `${why}: ${grouped(left)} rows`,
      left,
    };
  });
  const most = Math.max(ledger.read, ...lines.map((line) => line.left), 1);
  return (
    <Section title="Rows read, set aside and analysed">
      <ul className="ledger">
        <li>
          <span className="ledger-bar" style={{ width: `${(100 * ledger.read) / most}%` }} />
          <span>{grouped(ledger.read)} read</span>
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
            : `${grouped(ledger.analysed)} analysed`}
        </b>
        {ledger.standing_for ? `, standing for ${grouped(ledger.standing_for)} subjects` : ""}
        {ledger.ended_early ? (
          <span className="quiet">
            {" "}
            · {grouped(ledger.ended_early)} followed less long than they could be, by decision
          </span>
        ) : null}
      </p>
    </Section>
  );
}
