import { type ReactNode, useId, useLayoutEffect, useRef, useState } from "react";
import type { Axis, Cell, Track } from "../api/types";
import { ColumnHead } from "../tables/ColumnHead";
import { fittingTicks } from "./fittingTicks";
import type { Place } from "./marks/drawing";
import { Marks } from "./marks/Marks";
import { type Scale, scaleOf } from "./scales";
import "./CategoryTrack.css";

const ROW = 36;
const HEADING_ROW = 26;
const AIR = 8;
const PICTURE_SHARE = 22;
const FOOT = 44;

/**
 * A track of categories: a table with a row each, its cells at both sides of what is drawn. The
 * tables of cells are read row by row; the picture is for the eye.
 */
export function CategoryTrack({
  track,
  across,
  cell,
}: {
  track: Track;
  across: Axis;
  cell: (cell: Cell) => ReactNode;
}) {
  const picture = useRef<HTMLTableCellElement>(null);
  const [width, setWidth] = useState(220);
  useLayoutEffect(() => {
    const box = picture.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(box.clientWidth - AIR, 120)));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const x = scaleOf(across, AIR, width - AIR);
  const [left, right] = (["left", "right"] as const).map((side) =>
    track.columns.filter((column) => column.side === side),
  ) as [Track["columns"], Track["columns"]];
  const ticks = fittingTicks(across, width - 2 * AIR, false);
  return (
    <table className="category-track" aria-label={track.title}>
      <colgroup>
        {left.map((column) => (
          <col key={column.head} style={{ width: `${column.share}%` }} />
        ))}
        <col style={{ width: `${PICTURE_SHARE}%` }} />
        {right.map((column) => (
          <col key={column.head} style={{ width: `${column.share}%` }} />
        ))}
      </colgroup>
      <thead>
        <tr>
          {left.map((column) => (
            <ColumnHead key={column.head} words={column.head} />
          ))}
          <td ref={picture} className="picture" />
          {right.map((column) => (
            <ColumnHead key={column.head} words={column.head} />
          ))}
        </tr>
      </thead>
      <tbody>
        {(track.axis?.categories ?? []).map((name, k) => {
          const heading = [...left.slice(1), ...right].every((column) => !column.cells[k]);
          return (
            <tr key={`${k}${name}`} className={heading ? "heading" : undefined}>
              {left.map((column, c) => (
                <LeftCell key={column.head} cell={column.cells[k]} first={c === 0} show={cell} />
              ))}
              <td className="picture">
                <RowPicture
                  track={track}
                  across={across}
                  x={x}
                  row={k}
                  width={width}
                  height={heading ? HEADING_ROW : ROW}
                  ticks={ticks.map((tick) => tick.at)}
                />
              </td>
              <RightCells cells={right.map((column) => column.cells[k])} show={cell} />
            </tr>
          );
        })}
      </tbody>
      <tfoot>
        <tr>
          <td colSpan={left.length} />
          <td className="picture">
            <svg width={width} height={FOOT} aria-hidden="true">
              {ticks.map((tick) => (
                <text key={tick.at} x={x(tick.at)} y={14} textAnchor="middle">
                  {tick.label}
                </text>
              ))}
              <text x={width / 2} y={34} textAnchor="middle" className="axis-name">
                {across.label}
              </text>
            </svg>
          </td>
          <td colSpan={right.length} />
        </tr>
      </tfoot>
    </table>
  );
}

type MaybeCell = Cell | null | undefined;

function LeftCell({
  cell,
  first,
  show,
}: {
  cell: MaybeCell;
  first: boolean;
  show: (cell: Cell) => ReactNode;
}) {
  if (!first) return <td className="beside">{cell ? show(cell) : null}</td>;
  return (
    <th scope="row" className={cell?.strong ? "strong" : undefined}>
      {cell ? show(cell) : null}
    </th>
  );
}

/** The cells at the right; a sentence in place of figures runs over those that follow it. */
function RightCells({
  cells,
  show,
}: {
  cells: readonly MaybeCell[];
  show: (cell: Cell) => ReactNode;
}) {
  const wordy = cells.findIndex((cell) => cell?.wordy);
  const last = cells.length - 1;
  return cells.map((cell, k) => {
    if (wordy >= 0 && k > wordy && k < last) return null;
    const span = k === wordy ? Math.max(last - wordy, 1) : 1;
    return (
      <td key={k} colSpan={span} className={k === wordy ? "wordy" : undefined}>
        {cell ? show(cell) : null}
      </td>
    );
  });
}

function RowPicture({
  track,
  across,
  x,
  row,
  width,
  height,
  ticks,
}: {
  track: Track;
  across: Axis;
  x: Scale;
  row: number;
  width: number;
  height: number;
  ticks: readonly number[];
}) {
  const clip = useId();
  const up = track.axis;
  if (!up) return null;
  const y = scaleOf({ ...up, low: row - 0.5, high: row + 0.5 }, 0, height);
  const place: Place = { x, y, across, up, left: AIR, right: width - AIR, top: 0, bottom: height };
  return (
    <svg width={width} height={height} aria-hidden="true">
      {ticks.map((at) => (
        <line key={at} x1={x(at)} x2={x(at)} y1={0} y2={height} className="grid" />
      ))}
      <clipPath id={clip}>
        <rect width={width} height={height} />
      </clipPath>
      <g clipPath={`url(#${clip})`}>
        <Marks marks={track.marks} place={place} />
      </g>
    </svg>
  );
}
