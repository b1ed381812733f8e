import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { listen } from "./api/events";
import { client } from "./api/queries";
import { App } from "./screen/App";
import { applyTheme } from "./state/ui";
import "./theme.css";

applyTheme();
listen(client);
createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <App />
    </QueryClientProvider>
  </StrictMode>,
);
