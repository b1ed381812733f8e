import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Refusal } from "./api/client";
import { listen } from "./api/events";
import { client } from "./api/queries";
import { App } from "./screen/App";
import { say } from "./state/notices";
import { applyTheme } from "./state/ui";
import "./theme.css";

// Nobody waits for some answers: a refusal is told all the same.
addEventListener("unhandledrejection", (e) => {
  if (e.reason instanceof Refusal) say(e.reason.message);
});

applyTheme();
listen();
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <App />
    </QueryClientProvider>
  </StrictMode>,
);
