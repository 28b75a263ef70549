import { cleanup, configure } from "@testing-library/react";
import { afterEach } from "vitest";
import { answer, RequestOnAPage, serverThat } from "./server";

// A machine that does much else at once takes longer than the second that is usual.
configure({ asyncUtilTimeout: 10_000 });
globalThis.Request = RequestOnAPage;
globalThis.fetch = answer;

afterEach(() => {
  if (typeof document !== "undefined") cleanup();
  serverThat({});
});
