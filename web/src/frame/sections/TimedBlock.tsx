import Button from "@mui/material/Button";
import { useStatement } from "../../api/changes";
import type { ChosenTimes, Statement, TimedTable, TimeLine } from "../../api/types";
import { nextTime, type PageOf, sentWhole } from "../../numbers/atTime";
import { timeAgainst } from "../../numbers/format";
import { usePageOf } from "../../numbers/seriesPages";
import { timedText, timedValue } from "../../numbers/timed";
import { Caution, Numbers } from "../../readings/Readings";
import { useReadTime } from "../../sandLine/sandTime";
import { WorkedNumber } from "../../workings/workings";

/** A table that follows the sand line. */
export function TimedBlock({
  study,
  stage,
  drawing,
  time,
  end,
  table,
}: {
  study: string;
  stage: string;
  drawing: string;
  time: TimeLine;
  end: number;
  table: TimedTable;
}) {
  const t = useReadTime(study, end, time.start);
  const pageOf = usePageOf(study, drawing);
  const first = (row: TimedTable["rows"][number]) =>
    row.cells[0] ? timedValue(row.cells[0], table.series, t, pageOf) : null;
  const followed = table.rows.filter((row) => table.series[row.cells[0]?.series ?? -1]?.end);
  return (
    <>
      <Numbers
        label={table.label}
        head={table.head}
        rows={table.rows.map((row) => [
          row.tone === null ? row.label : { text: row.label, tone: row.tone },
          ...table.head.slice(1).map((_, k) => {
            const cell = row.cells[k];
            if (!cell) return "";
            const text = timedText(cell, table.series, t, pageOf);
            const value = timedValue(cell, table.series, t, pageOf);
            if (!cell.workings || value === null || value === undefined) return text;
            const of = { ...cell.workings, about: { ...cell.workings.about, t } };
            return (
              <WorkedNumber key={k} stage={stage} of={of}>
                {text}
              </WorkedNumber>
            );
          }),
        ])}
      />
      {table.past && followed.some((row) => row.tone !== null && first(row) === null) ? (
        <p className="quiet">{table.past}</p>
      ) : null}
      <Holds time={time} t={t} end={end} pageOf={pageOf} />
      {table.chosen ? <ChooseTime study={study} chosen={table.chosen} t={t} /> : null}
      <FewAt table={table} t={t} pageOf={pageOf} />
    </>
  );
}

/** Until when the curves stay as they are, on a stretch without an event. */
function Holds({
  time,
  t,
  end,
  pageOf,
}: {
  time: TimeLine;
  t: number;
  end: number;
  pageOf: PageOf;
}) {
  const next = nextTime(time.events, t, 1, pageOf);
  if (next === undefined || t >= end) return null;
  const until =
    next === null ? "no later event" : `no event until ${timeAgainst(next, t, time.decimals)}`;
  return <p className="quiet">Holds from here: {until}.</p>;
}

/** Adds the time that is read to those shown in a table of their own, or takes it out again. */
function ChooseTime({ study, chosen, t }: { study: string; chosen: ChosenTimes; t: number }) {
  const put = useStatement(study);
  const there = chosen.times.includes(t);
  const others = chosen.times.filter((one) => one !== t);
  const times = there ? others : [...others, t].sort((a, b) => a - b);
  if (t <= 0 || times.length > chosen.most) return null;
  return (
    <Button
      disabled={put.isPending}
      onClick={() => put.mutate({ ...chosen.statement, times } as unknown as Statement)}
    >
      {there ? "Take out of the chosen times" : "Add to the chosen times"}
    </Button>
  );
}

/** A caution where what is read rests on too little. */
function FewAt({ table, t, pageOf }: { table: TimedTable; t: number; pageOf: PageOf }) {
  const few = table.few;
  if (!few) return null;
  const rows = table.rows.filter((row) => {
    const cell = row.cells[few.cell];
    const value = cell ? timedValue(cell, table.series, t, pageOf) : null;
    return value !== null && value !== undefined && value < few.below;
  });
  if (!rows.length) return null;
  const where = rows.some((row) => row.tone !== null)
    ? ` in ${rows.map((row) => row.label).join(" and ")}`
    : "";
  return (
    <Caution
      caution={{ key: "few at this time", lead: few.lead, sentence: `${few.sentence}${where}.` }}
    />
  );
}

/** The values of the tables that follow the sand line at a time, in words. */
export function readOut(
  tables: readonly TimedTable[],
  t: number,
  pageOf: PageOf = sentWhole,
): string {
  return tables
    .flatMap((table) =>
      table.rows.map((row) => {
        const text = row.cells.map((cell, k) => {
          const text = timedText(cell, table.series, t, pageOf);
          return text ? `${table.head[k + 1] ?? ""} ${text}` : "";
        });
        return `${row.label}: ${text.filter(Boolean).join(", ")}`;
      }),
    )
    .join("; ");
}
