import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { OutboxProvider } from "./api/outbox";
import { SettingsProvider } from "./settings/settings";
import "./styles.css";

const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce;
if (nonce) setNonce(nonce);

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000 } },
});
if (import.meta.env.PROD) void navigator.serviceWorker?.register("/sw.js").catch(() => {});
const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <SettingsProvider>
          <BrowserRouter>
            <OutboxProvider>
              <App />
            </OutboxProvider>
          </BrowserRouter>
        </SettingsProvider>
      </QueryClientProvider>
    </StrictMode>,
  );
}
