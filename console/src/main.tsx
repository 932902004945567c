import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Problem } from "./api";
import { App } from "./app";
import "./styles.css";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) =>
        count < 2 && !(error instanceof Problem && (error.status < 500 || error.status === 503)),
      staleTime: 1000,
    },
  },
});

// A page of an older version is gone once the service was upgraded: the new version is loaded as a whole.
window.addEventListener("vite:preloadError", () => window.location.reload());

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={300}>
        <App />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
