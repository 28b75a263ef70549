import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { fetchDrawn } from "../api/drawings";
import type { Figure, ShownTrack } from "../api/types";
import type { Extent } from "./extent";

const SETTLED_MS = 120;

/**
 * The figure over a part of its axis, with the tracks that are shown: as it was sent, where that shows
 * it all, else as the server draws it once the part has settled.
 */
export function useDrawn(
  study: string,
  drawing: string,
  figure: Figure,
  extent: Extent,
  zoomed: boolean,
  shown: readonly ShownTrack[],
  columns: number,
): Figure {
  const [low, high] = useSettled(extent);
  const there = (id: string) => figure.tracks.some((track) => track.id === id && track.drawn);
  const ids = (of: (track: ShownTrack) => unknown) => shown.filter(of).map((track) => track.id);
  const tracks = ids(() => true);
  const axes = {
    proportion: ids((track) => track.proportion),
    fitted: ids((track) => track.fitted),
    switched: shown.flatMap((track) => track.switched.map((part) => `${track.id}/${part}`)),
    every: shown.find((track) => track.every)?.every ?? null,
  };
  const otherwise =
    axes.every !== null ||
    [axes.proportion, axes.fitted, axes.switched].some((those) => those.length > 0);
  const wanted = drawing !== "" && (zoomed || otherwise || !tracks.every(there));
  const found = useQuery({
    queryKey: ["drawing", study, drawing, low, high, tracks, axes, columns],
    queryFn: () => fetchDrawn(study, drawing, { low, high, columns, tracks, ...axes }),
    enabled: wanted,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (wanted && found.data) || figure;
}

function useSettled([low, high]: Extent): Extent {
  const [settled, setSettled] = useState<Extent>([low, high]);
  useEffect(() => {
    const timer = window.setTimeout(() => setSettled([low, high]), SETTLED_MS);
    return () => window.clearTimeout(timer);
  }, [low, high]);
  return settled;
}
