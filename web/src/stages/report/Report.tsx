import Button from "@mui/material/Button";
import { Link } from "react-router";
import { usePutStatement } from "../../api/changes";
import { useStage } from "../../api/queries";
import type { ReportResult } from "../../api/types";
import { Blocked, StagePage, Working } from "../../frame/StagePage";
import { Readings, Section } from "../../readings/Readings";
import "./Report.css";

/** The report as one page, saved as one file. */
export function Report({ study, stage }: { study: string; stage: string }) {
  const query = useStage<ReportResult>(study, stage);
  const put = usePutStatement(study, stage);
  const reply = query.data;
  const result = reply?.result;
  return (
    <StagePage
      study={study}
      title="Report"
      hint="the numbers of the report open their workings in the stage they come from"
      context="What the page holds is what is saved: one file, no outside parts, ready to print."
      sentence={result?.sentence}
      onSet={(field, value) => put.mutate({ field, value })}
      changing={put.isPending || (query.isFetching && !query.isLoading)}
      error={put.error ?? query.error}
      readings={result ? <Saves study={study} result={result} /> : null}
    >
      {reply?.blocked ? <Blocked study={study} blocks={reply.blocked} /> : null}
      {reply?.work ? <Working work={reply.work} /> : null}
      {query.isLoading ? <p className="notice quiet">Opening …</p> : null}
      {result ? (
        <iframe
          className="report-page"
          title="The report"
          sandbox="allow-same-origin"
          srcDoc={result.html}
        />
      ) : null}
    </StagePage>
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
            download
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
              href={`/api/studies/${study}/tables/${key}.csv`}
              download
              sx={{ minWidth: 0 }}
            >
              {title}
            </Button>
          </p>
        ))}
      </Section>
    </Readings>
  );
}
