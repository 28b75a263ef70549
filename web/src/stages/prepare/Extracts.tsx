import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useState } from "react";
import { useOpenExtract, useRefuseExtract } from "../../api/changes";
import { type Renamed, useExtracts } from "../../api/queries";
import type { ExtractComparison, Extracts as ExtractsData } from "../../api/types";
import { Refused } from "../../frame/ReasonField";
import { Working } from "../../frame/StagePage";
import { grouped } from "../../numbers/format";
import { Numbers } from "../../readings/Readings";
import { SendFile } from "./SendFile";
import { useSending } from "./useSending";
import "./Extracts.css";

/** The data extracts of a study: the one in use, earlier ones, and a new one before it is accepted. */
export function Extracts({ study, onClose }: { study: string; onClose: () => void }) {
  const [renamed, setRenamed] = useState<Renamed>([]);
  const extracts = useExtracts(study, renamed);
  const open = useOpenExtract(study);
  const refuse = useRefuseExtract(study);
  const sending = useSending(study, "next-file");
  const data = extracts.data;
  const waiting = data?.extracts.find((one) => !one.accepted);
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="extracts-title">
      <DialogTitle id="extracts-title">Extracts of the data</DialogTitle>
      <DialogContent>
        {data ? (
          <Kept
            extracts={data}
            busy={open.isPending}
            onOpen={(id) => open.mutate({ id, renamed: [] })}
          />
        ) : null}
        {waiting && data?.comparison ? (
          <Comparison
            name={waiting.name}
            found={data.comparison}
            renamed={renamed}
            onRename={setRenamed}
          />
        ) : waiting ? null : (
          <>
            <p>
              A new data extract of the same study is read, the same steps are applied, and what
              would change is shown before you accept it. The data extract in use stays available.
            </p>
            <SendFile sending={sending} words="Choose the new data extract" />
          </>
        )}
        {data?.work ? <Working work={data.work} /> : null}
        <Refused error={extracts.error ?? open.error ?? refuse.error} />
      </DialogContent>
      <DialogActions>
        {waiting ? (
          <>
            <Button disabled={refuse.isPending} onClick={() => refuse.mutate(null)}>
              Discard
            </Button>
            <Button
              variant="contained"
              disabled={open.isPending || !data?.comparison || extracts.isPlaceholderData}
              onClick={() => open.mutate({ id: waiting.id, renamed }, { onSuccess: onClose })}
            >
              Accept the new data extract
            </Button>
          </>
        ) : null}
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

function Kept({
  extracts,
  busy,
  onOpen,
}: {
  extracts: ExtractsData;
  busy: boolean;
  onOpen: (id: number) => void;
}) {
  return (
    <ul className="extracts">
      {extracts.extracts
        .filter((one) => one.accepted)
        .map((one) => (
          <li key={one.id}>
            <span>
              <b>{one.name}</b> · {grouped(one.rows)} rows · read on {one.read_on}
              {one.current ? " · in use" : ""}
            </span>
            {one.current ? null : (
              <Button disabled={busy} onClick={() => onOpen(one.id)}>
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

const FIRST = 24;

/** The first of a list, and all of it when requested. */
function Listed({ words }: { words: readonly string[] }) {
  const [all, setAll] = useState(false);
  const shown = all ? words : words.slice(0, FIRST);
  return (
    <>
      {shown.join(" · ")}
      {words.length > shown.length ? (
        <>
          {" "}
          <button type="button" className="in-line" onClick={() => setAll(true)}>
            and {grouped(words.length - shown.length)} more
          </button>
        </>
      ) : null}
    </>
  );
}

function Comparison({
  name,
  found,
  renamed,
  onRename,
}: {
  name: string;
  found: ExtractComparison;
  renamed: Renamed;
  onRename: (renamed: Renamed) => void;
}) {
  const last = found.sides.length - 1;
  return (
    <section aria-label="Comparison with the new data extract">
      <h3>{name} waits to be accepted</h3>
      <p>
        {grouped(found.rows_after)} rows, {grouped(found.rows_before)} before: {grouped(found.new)}{" "}
        new, {grouped(found.gone)} gone, {grouped(found.changed)} changed. Rows are known by{" "}
        {found.known_by || "all their cells, as no subject is named"}.
      </p>
      {found.renamed.length || renamed.length ? (
        <>
          <h4>Columns that seem to have another name</h4>
          <ul className="renamed">
            {found.renamed.map(({ was, now, because }) => (
              <li key={was}>
                <b>{now}</b> seems to be what <b>{was}</b> was: {because}.{" "}
                <Button onClick={() => onRename([...renamed, { was, now }])}>
                  Take it for {was}
                </Button>
              </li>
            ))}
            {renamed.map((one) => (
              <li key={one.was}>
                <b>{one.now}</b> is taken for <b>{one.was}</b>.{" "}
                <Button onClick={() => onRename(renamed.filter((r) => r.was !== one.was))}>
                  Leave it as it is
                </Button>
              </li>
            ))}
          </ul>
        </>
      ) : null}
      <Numbers
        label="Every stage before and after"
        head={["", "now", "with the new data extract"]}
        rows={found.headlines.map((h) => [
          h.stage,
          h.before,
          { text: h.after, strong: h.before !== h.after },
        ])}
      />
      {found.numbers.length ? (
        <>
          <h4>The numbers, one kind of change after the other</h4>
          <Numbers
            label="What each kind of change does to the numbers"
            head={["", "", ...found.sides]}
            rows={found.numbers.map((n) => [
              n.stage,
              n.name,
              ...n.texts.map((text, k) => ({
                text: text || "—",
                strong: k === last && text !== n.texts[0],
              })),
            ])}
          />
        </>
      ) : null}
      {found.graver.length ? (
        <>
          <h4>
            {grouped(found.graver.length)} {found.graver.length === 1 ? "row loses" : "rows lose"}{" "}
            what was known
          </h4>
          <div className="long-table">
            <Numbers
              label="Events gone and follow-up that ends earlier"
              head={["row", "column", "was", "is", ""]}
              rows={found.graver.map((c) => [
                c.who,
                c.column,
                c.before || "—",
                c.after || "—",
                c.what,
              ])}
            />
          </div>
        </>
      ) : null}
      {LISTS.map(([key, title]) =>
        found[key].length ? (
          <div key={key}>
            <h4>{title}</h4>
            <p className="quiet">
              <Listed words={found[key]} />
            </p>
          </div>
        ) : null,
      )}
      {found.changed_cells.length ? (
        <>
          <h4>Cells that changed</h4>
          <div className="long-table">
            <Numbers
              label="Cells that changed"
              head={["row", "column", "was", "is"]}
              rows={found.changed_cells.map((c) => [
                c.who,
                c.column,
                c.before || "—",
                c.after || "—",
              ])}
            />
          </div>
        </>
      ) : null}
    </section>
  );
}
