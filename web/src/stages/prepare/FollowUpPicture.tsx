import { useLayoutEffect, useRef, useState } from "react";
import type { Axis, Figure, MarkOf, Track } from "../../api/types";
import { plain } from "../../numbers/format";
import { FigureActions } from "../../tracks/FigureActions";
import { fittingTicks } from "../../tracks/fittingTicks";
import type { Place } from "../../tracks/marks/drawing";
import { Marks } from "../../tracks/marks/Marks";
import { scaleOf } from "../../tracks/scales";
import "./FollowUpPicture.css";

const ROW = 7;
const FOOT = 42;
const LEFT = 24;
const RIGHT = 40;

interface Props {
  study: string;
  figure: Figure;
  drawing: string;
}

/** Follow-up of each row: a line each, from entry to end, with how it ended. */
export function FollowUpPicture({ study, figure, drawing }: Props) {
  const frame = useRef<HTMLElement>(null);
  const [width, setWidth] = useState(760);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(box.clientWidth, 380)));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const track = figure.tracks[0];
  return (
    <figure className="picture-of-rows tracks" ref={frame} aria-label={figure.name}>
      <div className="picture-head">
        <h2>{track?.title ?? "Follow-up of each row"}</h2>
        {track ? <Legend track={track} /> : null}
      </div>
      {track?.axis ? (
        <Lines
          track={track}
          up={track.axis}
          across={figure.across}
          width={width}
          note={figure.note}
        />
      ) : null}
      <figcaption>
        <p className="quiet">{figure.note}</p>
        {track ? (
          <FigureActions
            study={study}
            view="prepare"
            figure={figure}
            drawing={drawing}
            tracks={[track.id]}
          />
        ) : null}
      </figcaption>
    </figure>
  );
}

function pointsOf(track: Track): MarkOf<"points">[] {
  return track.marks.filter((mark): mark is MarkOf<"points"> => mark.kind === "points");
}

const UNIT: Axis = {
  low: 0,
  high: 1,
  form: "number",
  signed: false,
  label: "",
  unit: "",
  categories: [],
  step: null,
  ticks: [],
};

/** The meaning of each glyph. */
function Legend({ track }: { track: Track }) {
  const place: Place = {
    x: scaleOf(UNIT, 7, 8),
    y: scaleOf(UNIT, 6, 7),
    across: UNIT,
    up: UNIT,
    left: 0,
    right: 14,
    top: 0,
    bottom: 12,
  };
  return (
    <span className="legend">
      {pointsOf(track).map((mark) => (
        <span key={mark.label}>
          <svg width="14" height="12" aria-hidden="true">
            <Marks marks={[{ ...mark, x: [0], y: [0] }]} place={place} />
          </svg>{" "}
          {mark.label}
        </span>
      ))}
    </span>
  );
}

function Lines({
  track,
  up,
  across,
  width,
  note,
}: {
  track: Track;
  up: Axis;
  across: Axis;
  width: number;
  note: string;
}) {
  const right = width - RIGHT;
  const height = up.categories.length * ROW + 12;
  const x = scaleOf(across, LEFT, right);
  const y = scaleOf(up, 0, height);
  const place: Place = { x, y, across, up, left: LEFT, right, top: 0, bottom: height };
  return (
    <svg width={width} height={height + FOOT} role="img" aria-label={`Follow-up lines. ${note}`}>
      <Marks marks={track.marks} place={place} />
      {up.categories.map((name, k) => (
        <rect
          key={`${k}${name}`}
          x={LEFT}
          y={y(k - 0.5)}
          width={right - LEFT}
          height={ROW}
          className="row-name"
        >
          <title>{`${name}: ${shown(track, k)}`}</title>
        </rect>
      ))}
      <g transform={`translate(0 ${height})`} className="time-axis">
        <line x1={LEFT} x2={right} y1={0} y2={0} />
        {fittingTicks(across, right - LEFT, false).map((tick) => (
          <g key={tick.at} transform={`translate(${x(tick.at)} 0)`}>
            <line y2={5} />
            <text y={18} textAnchor="middle">
              {tick.label}
            </text>
          </g>
        ))}
        <text x={(LEFT + right) / 2} y={36} textAnchor="middle" className="axis-name">
          {across.label}
        </text>
      </g>
    </svg>
  );
}

/** From when to when a row was followed, and how that ended. */
function shown(track: Track, row: number): string {
  const lines = track.marks.find((mark): mark is MarkOf<"bars"> => mark.kind === "bars");
  const [from, to] = [lines?.low[row] ?? 0, lines?.high[row] ?? 0];
  const ended = pointsOf(track).filter((mark) =>
    mark.y.some((at, k) => at === row && mark.x[k] === to),
  );
  return `${plain(from, 6)} to ${plain(to, 6)}, ${ended.map((mark) => mark.label).join(", ")}`;
}
