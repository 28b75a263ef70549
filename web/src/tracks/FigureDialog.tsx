import Button from "@mui/material/Button";
import Popover from "@mui/material/Popover";
import { type ReactNode, useState } from "react";

/** A button under a figure, and what it opens above itself. */
export function FigureDialog({
  label,
  name,
  children,
}: {
  label: string;
  name: string;
  children: () => ReactNode;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="dialog">
        {label}
      </Button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "top", horizontal: "left" }}
        transformOrigin={{ vertical: "bottom", horizontal: "left" }}
        slotProps={{ paper: { role: "dialog", "aria-label": name } }}
      >
        {anchor ? children() : null}
      </Popover>
    </>
  );
}
