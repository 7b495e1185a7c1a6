import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { setNonce } from "get-nonce";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { loadTexts } from "./texts/say";
import "./styles.css";

const nonce = document.querySelector<HTMLMetaElement>('meta[property="csp-nonce"]')?.nonce;
if (nonce) setNonce(nonce);

const queries = new QueryClient({
  defaultOptions: { queries: { retry: 1, refetchOnWindowFocus: false, staleTime: 5_000 } },
});
if (import.meta.env.PROD) void navigator.serviceWorker?.register("/sw.js").catch(() => {});

async function open(root: HTMLElement) {
  // Pages name their texts as they are loaded: the language is there before them.
  await loadTexts();
  const [{ App }, { OutboxProvider }, { SettingsProvider }] = await Promise.all([
    import("./App"),
    import("./api/outbox"),
    import("./settings/settings"),
  ]);
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

const root = document.getElementById("root");
if (root) void open(root);
