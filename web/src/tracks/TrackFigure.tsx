import Button from "@mui/material/Button";
import { type ComponentProps, useMemo, useRef } from "react";
import { useStudy } from "../api/queries";
import type { Figure, Tick, Track, Trial, WorkingsOf } from "../api/types";
import { sandTimeNow } from "../sandLine/sandTime";
import { CountStrip } from "./CountStrip";
import { useChosenPreset } from "./chosenPreset";
import { useCommonAxes } from "./commonAxes";
import { FigureActions } from "./FigureActions";
import { FigureSettings } from "./FigureSettings";
import { fittingTicks } from "./fittingTicks";
import { GroupLabelsContext } from "./groupStyles";
import { Handles } from "./Handles";
import { AXIS_HEIGHT, COUNT_ROW, HEAD, LEFT, OWN_AXIS, PAD, rightOf } from "./layout";
import { PanelStrip } from "./PanelStrip";
import { SandLine } from "./SandLine";
import { Strip } from "./Strip";
import { type Scale, scaleOf } from "./scales";
import { styled } from "./styled";
import { TimeAxis } from "./TimeAxis";
import { TrackMenu } from "./TrackMenu";
import { TrackTitle } from "./TrackTitle";
import { useTrackChoice } from "./trackChoice";
import { type Dot, type Dotted, useDots } from "./useDots";
import { useDrawn } from "./useDrawn";
import { useGroupStyles } from "./useGroupStyles";
import { useRoom } from "./useRoom";
import { useWindow } from "./useWindow";
import { useWheel, zoomByKey } from "./useZooming";
import { withHeadings } from "./withHeadings";
import { withTried } from "./withTried";
import "./TrackFigure.css";

interface Props {
  study: string;
  /** Under this name the user's choice of tracks is kept. */
  view: string;
  figure: Figure;
  /** The key by which more of the figure is requested. */
  drawing: string;
  /** What would be drawn with what is being tried in the statement. */
  tried: Trial | null;
  /** What is read at a time, in words, for those who cannot see the figure. */
  textAt: (t: number) => string;
  /** A handle was let go: its place in the statement. */
  onSet: (field: string, value: unknown) => void;
  /** A handle is being dragged. */
  onTry: (field: string, value: unknown) => void;
  /** A dot was chosen: its workings are requested. */
  onOpen: (of: WorkingsOf) => void;
}

/** Tracks stacked over one horizontal axis; over time, crossed by the sand line. */
export function TrackFigure({
  study,
  view,
  figure: own,
  drawing,
  tried,
  textAt,
  onSet,
  onTry,
  onOpen,
}: Props) {
  const settings = useStudy(study).data?.figures[view];
  const { figure, beside } = useCommonAxes(own);
  const frame = useRef<HTMLDivElement>(null);
  const layers = useRef<HTMLDivElement>(null);
  const { width, height: room } = useRoom(frame);
  const choice = useTrackChoice(study, view, figure.tracks);
  const shown = choice.shown.map((s) => s.id);
  const part = useWindow(study, figure.low, figure.high);
  const sent = useDrawn(study, drawing, figure, part.extent, part.zoomed, choice.shown, width);
  const styles = useGroupStyles(study, view, figure);
  const drawn = useMemo(() => {
    const headed = settings ? withHeadings(sent, settings) : sent;
    return styled(tried ? withTried(headed, tried) : headed, styles.all, view);
  }, [sent, settings, tried, styles.all, view]);
  const tracks = shown.flatMap((id) => drawn.tracks.filter((t) => t.id === id));
  const others = beside.filter((track) => shown.includes(track.id));
  const heights = heightsOf(tracks, others, choice.shown, room);
  const right = width - rightOf([...tracks, ...others], width);
  const [low, high] = part.extent;
  const across = useMemo(() => ({ ...drawn.across, low, high }), [drawn.across, low, high]);
  const x = useMemo(() => scaleOf(across, LEFT, right), [across, right]);
  const ticks = useMemo(
    () => fittingTicks(across, right - LEFT, false).filter((t) => t.at >= low && t.at <= high),
    [across, right, low, high],
  );
  useWheel(layers, part, x, right);
  const { placed, axis, bottom } = stacked(tracks, heights);
  // The sand line does not cross what has a horizontal axis of its own.
  const clear = [{ top: 0, height: HEAD }, ...placed.filter(({ track }) => sharesAxis(track))];
  const { dot, ...picking } = useDots(
    placed.filter(({ track }) => hasDots(track)).map((one) => dottedOf(one, x, right)),
    onOpen,
  );
  return (
    <GroupLabelsContext.Provider value={styles.labels}>
      <figure
        className="tracks"
        ref={frame}
        aria-label={figure.name}
        style={useChosenPreset(study, view)}
      >
        {settings?.title ? <p className="figure-title">{settings.title}</p> : null}
        {/* biome-ignore lint/a11y/noStaticElementInteractions: keys come up from the sand line in it */}
        <div
          ref={layers}
          className="layers"
          onKeyDown={(event) =>
            zoomByKey(event, part, () =>
              sandTimeNow(study, figure.high, figure.time?.start ?? null),
            )
          }
          onDoubleClick={part.reset}
          {...picking}
        >
          <svg
            width={width}
            height={bottom}
            role="group"
            aria-label={`${figure.name} Tracks over time.`}
          >
            <Hatching />
            {placed.map(({ track, top, height }) => (
              <g key={track.id} transform={`translate(0 ${top})`} className={`track-${track.id}`}>
                <line x1={0} x2={width} y1={0} y2={0} className="edge" />
                <AnyStrip
                  track={track}
                  across={across}
                  ticks={ticks}
                  x={alongOf(track, x, right)}
                  right={right}
                  height={height}
                  zoomed={part.zoomed}
                />
                <foreignObject x={14} y={4} width={LEFT - 58} height={Math.max(height - 4, 0)}>
                  <TrackTitle track={track} />
                </foreignObject>
              </g>
            ))}
            {axis === null ? null : (
              <TimeAxis axis={across} ticks={ticks} x={x} right={right} top={axis} shown={part} />
            )}
          </svg>
          {/* A layer of its own: while the line moves, what lies under it is not painted again. */}
          <svg width={width} height={bottom} className="moving" role="group" aria-label="Cursor">
            {figure.time && axis !== null ? (
              <SandLine
                study={study}
                drawing={drawing}
                time={figure.time}
                end={figure.high}
                extent={part.extent}
                ticks={ticks}
                x={x}
                right={right}
                height={axis}
                clear={clear}
                textAt={textAt}
              />
            ) : null}
            {dot ? <DotName dot={dot} right={right} /> : null}
            {placed.map(({ track, top, height }) =>
              track.handles.length ? (
                <g key={track.id} transform={`translate(0 ${top})`}>
                  <Handles
                    track={track}
                    x={alongOf(track, x, right)}
                    right={right}
                    height={height}
                    onSet={onSet}
                    onTry={onTry}
                  />
                </g>
              ) : null,
            )}
          </svg>
        </div>
        <figcaption>
          <TrackMenu
            tracks={figure.tracks}
            choice={choice}
            heightOf={(id) => heights[shown.indexOf(id)] ?? 0}
          />
          <FigureSettings
            study={study}
            view={view}
            figure={own}
            tracks={shown}
            styleOf={styles.styleOf}
          />
          <FigureActions
            study={study}
            view={view}
            figure={figure}
            drawing={drawing}
            tracks={shown}
          />
          {part.zoomed ? <Button onClick={part.reset}>Whole axis</Button> : null}
          {tracks.map((track) => (
            <TrackNote key={track.id} track={track} named={tracks.length > 1} />
          ))}
          {figure.note ? <p className="quiet">{figure.note}</p> : null}
          {styles.hidden.map((group) => (
            <p key={group.key} className="quiet">
              Not shown: {group.label}. <Button onClick={() => styles.show(group)}>Show</Button>
            </p>
          ))}
        </figcaption>
        {styles.menu}
      </figure>
    </GroupLabelsContext.Provider>
  );
}

/** Whether a track is drawn over the horizontal axis of the figure. */
function sharesAxis(track: Track): boolean {
  return !track.across && !track.panels.length;
}

/** Tracks one below the other, the axis of the figure under the last of those that share it. */
function stacked(tracks: readonly Track[], heights: readonly number[]) {
  const last = tracks.findLastIndex(sharesAxis);
  let bottom = HEAD;
  let axis: number | null = null;
  const placed = tracks.map((track, k) => {
    const one = { track, top: bottom, height: heights[k] ?? 0 };
    bottom += one.height + 1;
    if (k === last) {
      axis = bottom;
      bottom += AXIS_HEIGHT;
    }
    return one;
  });
  return { placed, axis: axis as number | null, bottom };
}

function hasDots(track: Track): boolean {
  return track.marks.some((mark) => mark.kind === "points" && mark.opens);
}

/** A track with dots as it is placed. */
function dottedOf(
  { track, top, height }: { track: Track; top: number; height: number },
  x: Scale,
  right: number,
): Dotted {
  const from = height - (track.across ? OWN_AXIS : PAD);
  return { track, x: alongOf(track, x, right), top, from, to: PAD };
}

/** The dot under the pointer: a ring around it, and its row. */
function DotName({ dot, right }: { dot: Dot; right: number }) {
  const left = dot.x > right - 90;
  return (
    <g className="dot-name" pointerEvents="none">
      <circle cx={dot.x} cy={dot.y} r={6} />
      <text x={dot.x + (left ? -10 : 10)} y={dot.y - 8} textAnchor={left ? "end" : "start"}>
        {dot.standsFor} {dot.row}
      </text>
    </g>
  );
}

/** Where places lie along the horizontal axis of a track: its own, or that of the figure. */
function alongOf(track: Track, x: Scale, right: number): Scale {
  return track.across ? scaleOf(track.across, LEFT, right) : x;
}

/** A track as what it holds: numbers under the ticks, panels side by side, or one strip. */
function AnyStrip(props: ComponentProps<typeof Strip> & { ticks: readonly Tick[] }) {
  const { track, across, ticks, x, right, height } = props;
  if (track.counts.length) return <CountStrip track={track} ticks={ticks} x={x} right={right} />;
  if (track.panels.length)
    return <PanelStrip track={track} across={across} right={right} height={height} />;
  return <Strip {...props} />;
}

/** How to read a track, and how many of its dots are drawn. */
function TrackNote({ track, named }: { track: Track; named: boolean }) {
  const left = track.marks.flatMap((mark) =>
    mark.kind === "points" && mark.of !== null
      ? [`${mark.x.length} of ${mark.of} ${mark.label} are drawn; zoom in for the others`]
      : [],
  );
  const ofParts = track.parts.flatMap((part) => (part.shown && part.note ? [part.note] : []));
  const read = [track.note, ...ofParts].filter(Boolean).join(" ");
  const notes = [read, ...left].filter(Boolean).join("; ");
  if (!notes) return null;
  return (
    <p className="quiet">
      {named && track.axis ? <b>{track.title}: </b> : null}
      {notes}
    </p>
  );
}

/** The hatching of regions and areas. */
function Hatching() {
  return (
    <defs>
      <pattern id="hatched" width="7" height="7" patternUnits="userSpaceOnUse">
        <path d="M0 7L7 0" className="hatch" />
      </pattern>
    </defs>
  );
}

/** Curves take the room that is left, but are never drawn lower than this. */
const LEAST_CURVES = 230;
const FURNITURE = HEAD + AXIS_HEIGHT + 92;

function heightsOf(
  tracks: readonly Track[],
  beside: readonly Track[],
  chosen: readonly { id: string; height?: number | null }[],
  room: number,
): number[] {
  const own = tracks.map((track) => {
    const requested = chosen.find((s) => s.id === track.id)?.height;
    return requested ?? (track.height === "room" ? null : natural(track, beside));
  });
  const taken = own.reduce<number>((sum, height) => sum + (height ?? 0) + 1, 0);
  const sharing = own.filter((height) => height === null).length;
  const left = Math.max(LEAST_CURVES, (room - taken - FURNITURE) / Math.max(sharing, 1));
  return own.map((height) => height ?? left);
}

function natural(track: Track, beside: readonly Track[]): number {
  const rows = beside.filter((one) => one.id === track.id).map((one) => one.counts.length);
  if (track.counts.length) return 14 + COUNT_ROW * Math.max(track.counts.length, ...rows);
  if (track.panels.length) return 150;
  if (track.across) return 118 + OWN_AXIS;
  return track.axis?.form === "ratio" ? 140 : 118;
}
