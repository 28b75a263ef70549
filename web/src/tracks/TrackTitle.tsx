import type { Track } from "../api/types";
import { VerdictIcon } from "../theme/VerdictIcon";

/** What a track shows, and its verdict as a shape with words. */
export function TrackTitle({ track }: { track: Track }) {
  return (
    <div className="track-title">
      <b title={track.title}>{track.title}</b>
      {track.subtitle ? <span className="quiet">{track.subtitle}</span> : null}
      {track.verdict ? (
        <span>
          <VerdictIcon verdict={track.verdict} /> {track.verdict_words}
        </span>
      ) : null}
    </div>
  );
}
