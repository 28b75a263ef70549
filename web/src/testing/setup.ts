import { cleanup } from "@testing-library/react";
import { afterEach } from "vitest";
import { answer, RequestOnAPage, serverThat } from "./server";

globalThis.Request = RequestOnAPage;
globalThis.fetch = answer;

afterEach(() => {
  if (typeof document !== "undefined") cleanup();
  serverThat({});
});
