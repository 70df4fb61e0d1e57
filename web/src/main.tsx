import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { Refusal } from "./api/client";
import { Boundary } from "./ui/Boundary";
import { applyTheme } from "./ui/theme";
import { Toasts } from "./ui/toast";
import "./theme.css";

applyTheme();

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      // A refusal stays a refusal; only what did not get through is tried again.
      retry: (failures, error) => !(error instanceof Refusal) && failures < 3,
      refetchOnWindowFocus: true,
      staleTime: 10_000,
    },
  },
});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        <Toasts>
          <Boundary>
            <App />
          </Boundary>
        </Toasts>
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
