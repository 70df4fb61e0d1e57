import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { createBrowserRouter, RouterProvider } from "react-router";
import { App } from "./App";
import { reportFailure } from "./api/failures";
import { newQueries } from "./api/queries";
import { screenAhead } from "./screens";
import { Boundary } from "./ui/Boundary";
import { applyTheme } from "./ui/theme";
import { Toasts } from "./ui/toast";
import "./theme.css";

applyTheme();

const queries = newQueries();

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
