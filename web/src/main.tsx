import "@fontsource/barlow/latin-400.css";
import "@fontsource/barlow/latin-400-italic.css";
import "@fontsource/barlow/latin-500.css";
import "@fontsource/barlow/latin-600.css";
import "@fontsource/barlow-condensed/latin-500.css";
import "@fontsource/barlow-condensed/latin-600.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Failure } from "./api/client";
import { App } from "./shell/App";
import { applyTheme, storedTheme } from "./shell/theme";
import "./theme/theme.scss";

applyTheme(storedTheme());

const queries = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, error) => count < 1 && Failure.of(error).passes,
      refetchInterval: ({ state }) => (state.error && Failure.of(state.error).passes ? 3000 : false),
      refetchOnWindowFocus: false,
    },
  },
});

// Lets the screen open while the server is away; without it all else works.
if (import.meta.env.PROD) window.navigator.serviceWorker?.register("/sw.js").catch(() => {});

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={queries}>
      {/* At once: else what is selected lags behind the design, and typing would go to the part before. */}
      <BrowserRouter useTransitions={false}>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
