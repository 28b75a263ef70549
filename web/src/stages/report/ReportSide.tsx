import Button from "@mui/material/Button";
import { Link } from "react-router";
import type { ReportPoint, ReportResult } from "../../api/types";
import { Section } from "../../readings/Readings";
import { VerdictIcon } from "../../theme/VerdictIcon";
import { PlanSide } from "./PlanSide";
import { SaveReport } from "./SaveReport";

const SHAPES: Record<ReportPoint["state"], string> = {
  reported: "holds",
  open: "fails",
  "not needed": "unknown",
};

/** What goes with the report: its files, the checklist, and what it does not hold. */
export function ReportSide({
  study,
  report,
  result,
  onPutBack,
}: {
  study: string;
  report: number | null;
  result: ReportResult;
  onPutBack: (key: string) => void;
}) {
  const which = report === null ? "" : `?analysis=${report}`;
  const open = result.checklist.filter((point) => point.state === "open").length;
  return (
    <>
      <SaveReport study={study} report={report} forms={result.forms} />
      <PlanSide study={study} />
      <Section title="What readers need to find">
        <p className="quiet">{open ? `${open} open` : "Nothing is open."}</p>
        <ul className="checklist">
          {result.checklist.map((point) => (
            <li key={point.key}>
              <VerdictIcon verdict={SHAPES[point.state]} />{" "}
              {point.piece ? (
                <a href={`#piece-${point.piece}`}>{point.title}</a>
              ) : (
                <span>{point.title}</span>
              )}
              <span className="sr">: {point.state}</span>
              {point.words ? <span className="quiet below">{point.words}</span> : null}
            </li>
          ))}
        </ul>
      </Section>
      {result.left_out.length ? (
        <Section title="Left out">
          {result.left_out.map(({ key, title }) => (
            <p key={key}>
              {title}{" "}
              <Button size="small" onClick={() => onPutBack(key)}>
                Put back<span className="sr"> {title}</span>
              </Button>
            </p>
          ))}
        </Section>
      ) : null}
      {result.lost.length ? (
        <Section title="Words without a place">
          <p className="quiet">
            They were written for what is not printed now, and come back with it.
          </p>
          {result.lost.map(({ key, text }) => (
            <p key={key}>{text}</p>
          ))}
        </Section>
      ) : null}
      {result.offers.length ? (
        <Section title="Not printed">
          <p className="quiet">The page holds only what somebody has opened or requested for.</p>
          {result.offers.map((offer) => (
            <p key={offer.sentence}>
              {offer.sentence}
              <br />
              <Button component={Link} to={`/studies/${study}/${offer.stage}`} variant="outlined">
                Open {offer.stage_title}
              </Button>
            </p>
          ))}
        </Section>
      ) : null}
      <Section title="Tables as CSV, at full precision">
        {result.tables.map(({ key, title }) => (
          <p key={key}>
            <Button
              component="a"
              href={`/api/studies/${study}/tables/${key}.csv${which}`}
              download
              sx={{ minWidth: 0 }}
            >
              {title}
            </Button>
          </p>
        ))}
      </Section>
    </>
  );
}
