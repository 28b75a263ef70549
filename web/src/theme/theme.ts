import { createTheme, type Theme } from "@mui/material/styles";

export type Mode = "light" | "dark";

/** MUI in the house's paper and ink; the colours themselves live in tokens.css. */
export function themeOf(mode: Mode): Theme {
  const ink = mode === "light" ? "#1f2b33" : "#ece5d5";
  return createTheme({
    palette: {
      mode,
      primary: { main: mode === "light" ? "#8a5a10" : "#e0b566" },
      secondary: { main: mode === "light" ? "#22333b" : "#a9b6b8" },
      text: { primary: ink, secondary: mode === "light" ? "#5e6b70" : "#a7b3b5" },
      background:
        mode === "light"
          ? { default: "#f6f3eb", paper: "#fbf9f3" }
          : { default: "#172126", paper: "#1c282e" },
      divider: mode === "light" ? "#dcd4c1" : "#38474d",
    },
    typography: {
      fontFamily: "'Source Sans 3', 'Segoe UI', sans-serif",
      fontSize: 14,
      button: { textTransform: "none", fontWeight: 500 },
    },
    shape: { borderRadius: 3 },
    components: {
      MuiButton: { defaultProps: { size: "small", disableElevation: true } },
      MuiTextField: { defaultProps: { size: "small" } },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiPopover: { defaultProps: { transitionDuration: 0 } },
      MuiDialog: { defaultProps: { transitionDuration: 0 } },
    },
  });
}

const KEPT_UNDER = "hourglass.theme";

/** The theme last chosen, else the system's. */
export function startingMode(): Mode {
  const kept = localStorage.getItem(KEPT_UNDER);
  if (kept === "light" || kept === "dark") return kept;
  return matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function keepMode(mode: Mode): void {
  localStorage.setItem(KEPT_UNDER, mode);
}
