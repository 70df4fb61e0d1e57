import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { App } from "./App";
import { Refusal } from "./api/client";
import { reportFailure } from "./api/failures";
import { screenAhead } from "./screens";
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

// One route for all: which screen it is, App decides. Leaving a screen can be held up by a router of this kind only.
const router = createBrowserRouter([
  {
    path: "*",
    element: (
      <Toasts>
        <Boundary onFailure={reportFailure}>
          <App />
        </Boundary>
      </Toasts>
    ),
  },
]);

// The screen's code comes with the document. Where it does not come, its place says so.
await screenAhead(window.location.pathname).catch(() => undefined);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      <RouterProvider router={router} />
    </QueryClientProvider>
  </StrictMode>,
);
