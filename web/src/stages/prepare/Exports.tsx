import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useCuts, useOpenCut, useRefuseCut } from "../../api/queries";
import type { CutComparison, Cuts as CutsData } from "../../api/types";
import { Refused } from "../../frame/ReasonField";
import { Working } from "../../frame/StagePage";
import { whole } from "../../numbers/format";
import { Numbers } from "../../readings/Readings";
import { SendFile } from "./SendFile";
import { useSending } from "./useSending";

/** The cuts of the study's data: the one in use, earlier ones, and a new one before it is accepted. */
export function Cuts({ study, onClose }: { study: string; onClose: () => void }) {
  const cuts = useCuts(study, true);
  const open = useOpenCut(study);
  const refuse = useRefuseCut(study);
  const sending = useSending(study, "next-file");
  const data = cuts.data;
  const waiting = data?.cuts.find((cut) => !cut.accepted);
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="cuts-title">
      <DialogTitle id="cuts-title">Cuts of the data</DialogTitle>
      <DialogContent>
        {data ? <Kept cuts={data} busy={open.isPending} onOpen={(id) => open.mutate(id)} /> : null}
        {waiting && data?.comparison ? (
          <Comparison name={waiting.name} found={data.comparison} />
        ) : waiting ? null : (
          <>
            <p>
              A new export of the same study is read, the same steps are applied, and what would
              change is shown before you accept it. The cut in use stays available.
            </p>
            <SendFile sending={sending} words="Choose the new export" />
          </>
        )}
        {data?.work ? <Working work={data.work} /> : null}
        <Refused error={cuts.error ?? open.error ?? refuse.error} />
      </DialogContent>
      <DialogActions>
        {waiting ? (
          <>
            <Button disabled={refuse.isPending} onClick={() => refuse.mutate(null)}>
              Discard
            </Button>
            <Button
              variant="contained"
              disabled={open.isPending}
              onClick={() => open.mutate(waiting.id, { onSuccess: onClose })}
            >
              Accept the new cut
            </Button>
          </>
        ) : null}
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

function Kept({
  cuts,
  busy,
  onOpen,
}: {
  cuts: CutsData;
  busy: boolean;
  onOpen: (id: number) => void;
}) {
  return (
    <ul className="cuts">
      {cuts.cuts
        .filter((cut) => cut.accepted)
        .map((cut) => (
          <li key={cut.id}>
            <span>
              <b>{cut.name}</b> · {whole(cut.rows)} rows · read on {cut.read_on}
              {cut.current ? " · in use" : ""}
            </span>
            {cut.current ? null : (
              <Button disabled={busy} onClick={() => onOpen(cut.id)}>
                Go back to it
              </Button>
            )}
          </li>
        ))}
    </ul>
  );
}

const LISTS = [
  ["broken", "Steps that cannot be carried out on it"],
  ["not_found", "Rows that could not be found again"],
  ["findings_new", "Findings that are new"],
  ["columns_gone", "Columns that are gone"],
  ["columns_new", "Columns that are new"],
  ["new_rows", "Rows that are new"],
  ["gone_rows", "Rows that are gone"],
] as const;

function Comparison({ name, found }: { name: string; found: CutComparison }) {
  return (
    <section aria-label="Comparison with the new cut">
      <h3>{name} waits to be accepted</h3>
      <p>
        {whole(found.rows_after)} rows, {whole(found.rows_before)} before: {whole(found.new)} new,{" "}
        {whole(found.gone)} gone, {whole(found.changed)} changed. Rows are known by{" "}
        {found.known_by || "all their cells, as no subject is named"}.
      </p>
      <Numbers
        label="Every stage before and after"
        head={["", "now", "with the new cut"]}
        rows={found.headlines.map((h) => [
          h.stage,
          h.before,
          { text: h.after, strong: h.before !== h.after },
        ])}
      />
      {LISTS.map(([key, title]) =>
        found[key].length ? (
          <div key={key}>
            <h4>{title}</h4>
            <p className="quiet">
              {found[key].slice(0, 24).join(" · ")}
              {found[key].length > 24 ? " and more" : ""}
            </p>
          </div>
        ) : null,
      )}
      {found.changed_cells.length ? (
        <>
          <h4>Cells that changed</h4>
          <Numbers
            label="Cells that changed"
            head={["row", "column", "was", "is"]}
            rows={found.changed_cells
              .slice(0, 20)
              .map((c) => [c.who, c.column, c.before || "—", c.after || "—"])}
          />
        </>
      ) : null}
    </section>
  );
}
