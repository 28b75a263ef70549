import { scaleLog } from "d3-scale";
import { useLayoutEffect, useRef, useState } from "react";
import type { ForestRow } from "../../api/types";
import { CellText } from "../../frame/sections/TableBlock";
import "./Forest.css";

/** Shares of the width: term, against, picture, ratio, interval, p, on its own. */
const WIDTHS = [17, 11, 25, 8, 13, 7, 19];

/** The hazard ratios as a table with their picture in the middle. */
export function Forest({ stage, rows }: { stage: string; rows: readonly ForestRow[] }) {
  const picture = useRef<HTMLTableCellElement>(null);
  const [width, setWidth] = useState(220);
  useLayoutEffect(() => {
    const cell = picture.current;
    if (!cell) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(cell.clientWidth, 120)));
    watch.observe(cell);
    return () => watch.disconnect();
  }, []);
  const [low, high] = domain(rows);
  const x = scaleLog()
    .domain([low, high])
    .range([8, width - 8])
    .clamp(true);
  const ticks = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100].filter(
    (v) => v >= low && v <= high,
  );
  const guides = (
    <>
      {ticks.map((v) => (
        <line key={v} x1={x(v)} x2={x(v)} y1={0} y2="100%" className={v === 1 ? "one" : "guide"} />
      ))}
    </>
  );
  return (
    <div className="forest">
      <table>
        <colgroup>
          {WIDTHS.map((share, k) => (
            <col key={k} style={{ width: `${share}%` }} />
          ))}
        </colgroup>
        <thead>
          <tr>
            <th scope="col">term</th>
            <th scope="col">against</th>
            <th scope="col" className="picture" ref={picture}>
              <span className="sr">picture</span>
            </th>
            <th scope="col">hazard ratio</th>
            <th scope="col">interval</th>
            <th scope="col">p</th>
            <th scope="col">on its own</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((row, k) =>
            row.heading ? (
              <tr className="term" key={k}>
                <th scope="rowgroup" colSpan={2}>
                  {row.label}
                </th>
                <td className="picture">
                  <svg width={width} aria-hidden="true">
                    {guides}
                  </svg>
                </td>
                <td colSpan={4} />
              </tr>
            ) : (
              <tr key={k}>
                <th scope="row" className={row.below_heading ? "level" : "term"}>
                  {row.label}
                </th>
                <td className="against">{row.against}</td>
                <td className="picture">
                  <svg width={width} aria-hidden="true">
                    {guides}
                    <Interval row={row} x={x} low={low} high={high} />
                    {row.alone_point === null ? null : (
                      <circle cx={x(row.alone_point)} cy={27} r={3.5} className="alone" />
                    )}
                  </svg>
                </td>
                {row.cells.map((cell, c) => (
                  <td
                    key={c}
                    colSpan={cell.wordy ? 3 : 1}
                    className={cell.wordy ? "no-ratio" : undefined}
                  >
                    <CellText stage={stage} cell={cell} />
                  </td>
                ))}
                <td className="quiet">{row.alone}</td>
              </tr>
            ),
          )}
        </tbody>
        <tfoot>
          <tr>
            <td colSpan={2} className="quiet">
              <span className="key-diamond">◆</span> adjusted, with its interval
              <br />
              <span className="key-alone">○</span> on its own, in the same rows
            </td>
            <td className="picture">
              <svg width={width} height={44} aria-hidden="true">
                {ticks.map((v) => (
                  <text key={v} x={x(v)} y={14} textAnchor="middle">
                    {v}
                  </text>
                ))}
                <text x={x(1) - 10} y={34} textAnchor="end" className="quiet">
                  ← slower
                </text>
                <text x={x(1) + 10} y={34} className="quiet">
                  faster →
                </text>
              </svg>
            </td>
            <td colSpan={4} />
          </tr>
        </tfoot>
      </table>
    </div>
  );
}

function Interval({
  row,
  x,
  low,
  high,
}: {
  row: ForestRow;
  x: (v: number) => number;
  low: number;
  high: number;
}) {
  const { point: middle, low: lower, high: upper } = row;
  if (middle === null && lower === null && upper === null) return null;
  const from = x(lower ?? low);
  const to = x(upper ?? high);
  return (
    <g>
      <line x1={from} x2={to} y1={14} y2={14} className="interval" />
      {(lower ?? 0) < low ? <path d={`M${from} 14l6-4v8z`} className="beyond" /> : null}
      {(upper ?? Number.POSITIVE_INFINITY) > high ? (
        <path d={`M${to} 14l-6-4v8z`} className="beyond" />
      ) : null}
      {middle === null ? null : <path d={`M${x(middle)} 8l6 6l-6 6l-6-6z`} className="diamond" />}
    </g>
  );
}

/** A log axis that holds the intervals, but is not stretched by one that is very wide. */
function domain(rows: readonly ForestRow[]): [number, number] {
  let reach = Math.log(2.2);
  for (const row of rows)
    for (const v of [row.low, row.high, row.alone_point])
      if (v !== null && v > 0) reach = Math.max(reach, Math.abs(Math.log(v)));
  const bound = Math.min(reach * 1.05, Math.log(100));
  return [Math.exp(-bound), Math.exp(bound)];
}
