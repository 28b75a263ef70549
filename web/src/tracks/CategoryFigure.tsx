import type { ReactNode } from "react";
import type { Cell, Figure } from "../api/types";
import { CategoryTrack } from "./CategoryTrack";
import { FigureActions } from "./FigureActions";
import "./CategoryFigure.css";

/** A figure of categories: each track a table with its picture. */
export function CategoryFigure({
  study,
  view,
  figure,
  drawing,
  cell,
}: {
  study: string;
  view: string;
  figure: Figure;
  drawing: string;
  cell: (cell: Cell) => ReactNode;
}) {
  return (
    <figure className="tracks category-figure" aria-label={figure.name}>
      {figure.tracks.map((track) => (
        <CategoryTrack
          key={track.id}
          track={track}
          across={track.across ?? figure.across}
          cell={cell}
        />
      ))}
      <figcaption>
        <FigureActions
          study={study}
          view={view}
          figure={figure}
          drawing={drawing}
          tracks={figure.tracks.map((track) => track.id)}
        />
        {figure.tracks.map((track) =>
          track.note ? (
            <p key={track.id} className="quiet">
              {track.note}
            </p>
          ) : null,
        )}
      </figcaption>
    </figure>
  );
}
