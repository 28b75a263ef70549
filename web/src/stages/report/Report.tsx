import Button from "@mui/material/Button";
import { Link } from "react-router";
import type { ReportResult } from "../../api/types";
import { LaterStage } from "../../frame/LaterStage";
import { Readings, Section } from "../../readings/Readings";
import "./report.css";

const TABLES: Record<string, string> = {
  rows: "Where the rows went",
  groups: "Groups",
  ratios: "Hazard ratios",
  checks: "Checks",
};

/** The report as one page, saved as one file. */
export function Report({ study }: { study: string }) {
  return (
    <LaterStage
      study={study}
      stage="report"
      title="Report"
      hint="the numbers of the report open their workings in the stage they come from"
      context={() =>
        "What the page holds is what is saved: one file, no outside parts, ready to print."
      }
      view={(result) => ({
        main: (
          <iframe
            className="report-page"
            title="The report"
            sandbox="allow-same-origin"
            srcDoc={result.html}
          />
        ),
        readings: <Saves study={study} result={result} />,
      })}
    />
  );
}

function Saves({ study, result }: { study: string; result: ReportResult }) {
  return (
    <Readings>
      <Section title="Export">
        <p>
          <Button
            variant="contained"
            component="a"
            href={`/api/studies/${study}/report.html`}
            download="report.html"
          >
            Save the report (HTML)
          </Button>
        </p>
        <p className="quiet">
          To print, open the saved file and print it; it is set for paper too.
        </p>
      </Section>
      {result.offers.length ? (
        <Section title="Not printed">
          <p className="quiet">The page holds only what somebody has opened or asked for.</p>
          {result.offers.map((offer) => (
            <p key={offer.stage}>
              {offer.sentence}
              <br />
              <Button component={Link} to={`/studies/${study}/${offer.stage}`} variant="outlined">
                Open {offer.stage.charAt(0).toUpperCase() + offer.stage.slice(1)}
              </Button>
            </p>
          ))}
        </Section>
      ) : null}
      <Section title="Tables as CSV, at full precision">
        {result.tables.map((key) => (
          <p key={key}>
            <Button
              component="a"
              href={`/api/studies/${study}/tables/${key}.csv`}
              download={`${key}.csv`}
              sx={{ minWidth: 0 }}
            >
              {TABLES[key] ?? key}
            </Button>
          </p>
        ))}
      </Section>
    </Readings>
  );
}
