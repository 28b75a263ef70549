import Button from "@mui/material/Button";
import Dialog from "@mui/material/Dialog";
import DialogActions from "@mui/material/DialogActions";
import DialogContent from "@mui/material/DialogContent";
import DialogTitle from "@mui/material/DialogTitle";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { useKeepPrintSettings } from "../api/changes";
import { type PrintedFigure, printFigures, printSettingsQuery } from "../api/drawings";
import { useStudy } from "../api/queries";
import type { Figure, FileForm, PrintSettings } from "../api/types";
import { useView, useViews } from "../api/view";
import { PrintFields } from "./PrintFields";
import { titled, useOtherFigures } from "./useOtherFigures";
import "./ExportFigure.css";

interface Props {
  study: string;
  view: string;
  figure: Figure;
  drawing: string;
  /** The tracks that are shown, in their order; they are what is printed. */
  tracks: readonly string[];
  onClose: () => void;
}

/** The figure as a file: what is previewed is what is saved. The settings stay with the study. */
export function ExportFigure(props: Props) {
  const { study, view } = props;
  const kept = useQuery(printSettingsQuery(study, view));
  if (!kept.data) return null;
  return <Settled {...props} start={kept.data} />;
}

function Settled({
  study,
  view,
  figure,
  drawing,
  tracks,
  onClose,
  start,
}: Props & { start: PrintSettings }) {
  const [settings, setSettings] = useState<PrintSettings>({ ...start, tracks: [...tracks] });
  const [form, setForm] = useState<FileForm>("svg");
  const [beside, setBeside] = useState<readonly string[]>(useViewsBeside(study, view));
  const named = useStudy(study).data?.name ?? "Figure";
  const [across, setAcross] = useState(2);
  const others = useOtherFigures(study, view, beside);
  const figures: PrintedFigure[] = others.figures.length
    ? [{ drawing, settings: titled(settings, others.title) }, ...others.figures]
    : [{ drawing, settings }];
  const inRow = others.figures.length ? across : 1;
  const preview = usePreview(study, figures, inRow);
  const keep = useKeepPrintSettings(study, view);
  const save = useMutation({
    mutationFn: async () => {
      await keep.mutateAsync(settings);
      download(
        await printFigures(study, form, figures, inRow),
        `${[named, view, ...beside].join(", ")}.${form}`,
      );
    },
  });
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="export-figure-title">
      <DialogTitle id="export-figure-title">Export figure</DialogTitle>
      <DialogContent className="export-figure">
        <PrintFields
          figure={figure}
          settings={settings}
          form={form}
          onForm={setForm}
          onChange={(change) => setSettings((now) => ({ ...now, ...change }))}
          others={others.views}
          beside={beside}
          onBeside={setBeside}
          across={across}
          onAcross={setAcross}
        />
        <div className="preview" role="status" aria-busy={preview.busy}>
          {preview.address ? <img src={preview.address} alt={`Preview. ${figure.name}`} /> : null}
          {preview.error || save.error ? (
            <p role="alert">{(preview.error ?? save.error)?.message}</p>
          ) : null}
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Cancel</Button>
        <Button variant="contained" disabled={save.isPending} onClick={() => save.mutate()}>
          Save as {form.toUpperCase()}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** The views that stand beside the one whose figure is exported: they go into the same file. */
function useViewsBeside(study: string, view: string): string[] {
  const { beside } = useViews(study, useView().stage);
  return beside.filter((line) => line.view !== view).map((line) => line.view);
}

const SETTLED_MS = 250;

/** The file itself as a picture, once the settings have settled. */
function usePreview(study: string, figures: readonly PrintedFigure[], across: number) {
  const [address, setAddress] = useState<string | null>(null);
  const [error, setError] = useState<Error | null>(null);
  const [busy, setBusy] = useState(true);
  const requested = JSON.stringify(figures);
  useEffect(() => {
    let dropped = false;
    setBusy(true);
    const timer = window.setTimeout(async () => {
      try {
        const blob = await printFigures(
          study,
          "svg",
          JSON.parse(requested) as PrintedFigure[],
          across,
        );
        if (dropped) return;
        setError(null);
        setAddress(URL.createObjectURL(blob));
      } catch (reason) {
        if (!dropped) setError(reason as Error);
      } finally {
        if (!dropped) setBusy(false);
      }
    }, SETTLED_MS);
    return () => {
      dropped = true;
      window.clearTimeout(timer);
    };
  }, [study, requested, across]);
  useEffect(() => () => void (address && URL.revokeObjectURL(address)), [address]);
  return { address, error, busy };
}

function download(file: Blob, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(file);
  link.download = name;
  link.click();
  window.setTimeout(() => URL.revokeObjectURL(link.href), 60_000);
}
