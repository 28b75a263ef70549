import type { PrepareResult } from "../../api/types";
import { whole } from "../../numbers/format";
import { Section } from "../../readings/Readings";

/** Where the rows went: bars that shrink, each line with its number. */
export function Ledger({ ledger }: { ledger: PrepareResult["ledger"] }) {
  let left = ledger.read;
  const lines = ledger.lost.map(({ why, rows }) => {
    left -= rows;
    return { why, rows, left };
  });
  return (
    <Section title="Where the rows went">
      <ul className="ledger">
        <li>
          <span className="ledger-bar" style={{ width: "100%" }} />
          <span>{whole(ledger.read)} read</span>
        </li>
        {lines.map(({ why, rows, left: now }, k) => (
          <li key={k}>
            <span className="ledger-bar" style={{ width: `${(100 * now) / ledger.read}%` }} />
            <span>
              −{whole(rows)} {why}
            </span>
          </li>
        ))}
      </ul>
      <p>
        <b>
          {ledger.analysed === null
            ? "Not analysed yet: see what must be decided."
            : `${whole(ledger.analysed)} analysed`}
        </b>
      </p>
    </Section>
  );
}
