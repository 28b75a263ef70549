import Button from "@mui/material/Button";
import Snackbar from "@mui/material/Snackbar";
import { useRestoreStudy } from "../api/changes";
import { showMessage, useMessage } from "./messages";

const SHOWN_MS = 8000;

/** What was done, at the foot of the page, with a way to take a deletion back. */
export function Messages() {
  const message = useMessage();
  const restore = useRestoreStudy();
  const doomed = message?.restore;
  return (
    <Snackbar
      open={message !== null}
      anchorOrigin={{ vertical: "bottom", horizontal: "center" }}
      autoHideDuration={SHOWN_MS}
      onClose={(_, reason) => reason !== "clickaway" && showMessage(null)}
      message={message?.words ?? ""}
      action={
        doomed ? (
          <Button
            className="undo-delete"
            onClick={() =>
              restore.mutate(doomed, {
                onSuccess: () => showMessage({ words: "The study is back." }),
                onError: (error) => showMessage({ words: error.message }),
              })
            }
          >
            Undo
          </Button>
        ) : null
      }
    />
  );
}
