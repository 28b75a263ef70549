import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "./client";
import type { FigurePreset } from "./types";

const KEY = ["figure presets"];

/** Settings of figures that are kept for all studies. */
export function useFigurePresets(): readonly FigurePreset[] {
  const found = useQuery({
    queryKey: KEY,
    queryFn: () => answered(api.GET("/api/figure-presets")),
  });
  return found.data ?? [];
}

export function useKeepPreset() {
  return usePresetChange(({ name, settings }: FigurePreset) =>
    answered(api.PUT("/api/figure-presets/{name}", { params: { path: { name } }, body: settings })),
  );
}

export function useDeletePreset() {
  return usePresetChange((name: string) =>
    answered(api.DELETE("/api/figure-presets/{name}", { params: { path: { name } } })),
  );
}

function usePresetChange<V, R>(change: (value: V) => Promise<R>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: change,
    onSuccess: () => client.invalidateQueries({ queryKey: KEY }),
  });
}
