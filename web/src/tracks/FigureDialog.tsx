import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { type ReactNode, useState } from "react";

/** A button under a figure, and what it opens above itself. */
export function FigureDialog({
  label,
  name,
  ready = true,
  onOpen,
  children,
}: {
  label: string;
  name: string;
  /** Whether what is in it is there: it opens then, for it is placed by its height. */
  ready?: boolean;
  onOpen?: () => void;
  children: () => ReactNode;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        onClick={(event) => {
          onOpen?.();
          setAnchor(event.currentTarget);
        }}
        aria-haspopup="dialog"
      >
        {label}
      </Button>
      <Popover
        open={anchor !== null && ready}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "top", horizontal: "left" }}
        transformOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": name } }}
      >
        {anchor && ready ? children() : null}
      </Popover>
    </>
  );
}
