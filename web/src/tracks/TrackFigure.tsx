import Button from "@mui/material/Button";
import { scaleLinear } from "d3-scale";
import { useCallback, useMemo, useRef, useState } from "react";
import type { Figure, Track, Verdict } from "../api/types";
import { plain } from "../numbers/format";
import { CountStrip } from "./CountStrip";
import { FigureTable } from "./FigureTable";
import { AXIS_HEIGHT, COUNT_ROW, HEAD, LEFT, RIGHT } from "./layout";
import { SandLine } from "./SandLine";
import { Strip } from "./Strip";
import { TrackMenu } from "./TrackMenu";
import { timeTicks } from "./ticks";
import { useTrackChoice } from "./trackChoice";
import { useRoom } from "./useRoom";
import "./TrackFigure.css";

interface Props {
  study: string;
  /** Under this name the user's choice of tracks is kept. */
  view: string;
  figure: Figure;
  /** What is read at a time, in words, for those who cannot see the figure. */
  say: (t: number) => string;
}

/** Tracks stacked over one time axis, crossed by the sand line. */
export function TrackFigure({ study, view, figure, say }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const { width, height: room } = useRoom(frame);
  const [asTable, setAsTable] = useState(false);
  const choice = useTrackChoice(view, figure.tracks, figure.first ?? null);
  const tracks = choice.shown.flatMap((s) => figure.tracks.filter((t) => t.id === s.id));
  const chosenHeight = (id: string) => choice.shown.find((s) => s.id === id)?.height;
  const others = tracks
    .filter((t) => t.axis?.form !== "percent")
    .reduce((sum, t) => sum + (chosenHeight(t.id) ?? naturalHeight(t)) + 1, 0);
  const heightOf = (id: string) => {
    const track = figure.tracks.find((t) => t.id === id);
    if (track?.axis?.form !== "percent") return chosenHeight(id) ?? naturalHeight(track);
    return chosenHeight(id) ?? Math.max(LEAST_CURVES, room - others - FURNITURE);
  };
  const x = useMemo(
    () =>
      scaleLinear()
        .domain([0, figure.end || 1])
        .range([LEFT, width - RIGHT]),
    [figure.end, width],
  );
  const at = useCallback((pixels: number) => x.invert(pixels), [x]);
  const ticks = useMemo(
    () => timeTicks(figure.end, figure.unit, width - LEFT - RIGHT),
    [figure.end, figure.unit, width],
  );
  let y = HEAD;
  const placed = tracks.map((track) => {
    const top = y;
    const height = heightOf(track.id);
    y += height + 1;
    return { track, top, height };
  });
  const bottom = y;
  return (
    <figure className="tracks" ref={frame} aria-label={figure.name}>
      <svg
        width={width}
        height={bottom + AXIS_HEIGHT}
        role="group"
        aria-label={`${figure.name} Tracks over time.`}
      >
        {placed.map(({ track, top, height }) => (
          <g key={track.id} transform={`translate(0 ${top})`} className={`track-${track.id}`}>
            <line x1={0} x2={width} y1={0} y2={0} className="edge" />
            {track.axis ? (
              <Strip track={track} x={x} width={width} height={height} />
            ) : (
              <CountStrip track={track} ticks={ticks} x={x} width={width} />
            )}
            <foreignObject x={14} y={4} width={LEFT - 58} height={height - 4}>
              <Title track={track} />
            </foreignObject>
          </g>
        ))}
        <g transform={`translate(0 ${bottom})`} className="time-axis">
          <line x1={LEFT} x2={width - RIGHT} y1={0} y2={0} />
          {ticks.map((t) => (
            <g key={t} transform={`translate(${x(t)} 0)`}>
              <line y1={0} y2={5} />
              <text y={18} textAnchor="middle">
                {plain(t, 6)}
              </text>
            </g>
          ))}
          <text x={(LEFT + width - RIGHT) / 2} y={38} textAnchor="middle" className="axis-name">
            {figure.time_label}
          </text>
        </g>
        <SandLine
          study={study}
          end={figure.end}
          start={figure.start ?? null}
          events={figure.events}
          ticks={ticks}
          unit={figure.unit}
          decimals={figure.decimals}
          x={x}
          at={at}
          height={bottom}
          left={LEFT}
          right={width - RIGHT}
          say={say}
        />
      </svg>
      <figcaption>
        <TrackMenu tracks={figure.tracks} choice={choice} heightOf={heightOf} />
        <Button onClick={() => setAsTable(true)}>Figure as a table</Button>
        {tracks.map((track) =>
          track.note ? (
            <p key={track.id} className="quiet">
              {tracks.length > 1 && track.axis ? <b>{track.title}: </b> : null}
              {track.note}
            </p>
          ) : null,
        )}
        {figure.note ? <p className="quiet">{figure.note}</p> : null}
      </figcaption>
      {asTable ? (
        <FigureTable figure={figure} shown={tracks} onClose={() => setAsTable(false)} />
      ) : null}
    </figure>
  );
}

/** Curves take the room that is left, but are never drawn lower than this. */
const LEAST_CURVES = 230;
const FURNITURE = HEAD + AXIS_HEIGHT + 92;

function naturalHeight(track: Track | undefined): number {
  if (track?.counts.length) return 14 + COUNT_ROW * track.counts.length;
  return track?.axis?.form === "ratio" ? 140 : 118;
}

const SHAPES: Partial<Record<Verdict, string>> = { holds: "●", "in doubt": "◐", fails: "○" };

function Title({ track }: { track: Track }) {
  return (
    <div className="track-title">
      <b title={track.title}>{track.title}</b>
      {track.subtitle ? <span className="quiet">{track.subtitle}</span> : null}
      {track.verdict ? (
        <span>
          {SHAPES[track.verdict]} {track.verdict_words}
        </span>
      ) : null}
    </div>
  );
}
