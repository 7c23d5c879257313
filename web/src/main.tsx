import { PersistQueryClientProvider } from "@tanstack/react-query-persist-client";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { carried, client } from "./aboard";
import { App } from "./App";
import { dress } from "./parts/looks";
import { openForPaper } from "./parts/printing";
import { waitForReading } from "./parts/reading";
import "./style.css";

dress();
openForPaper();
waitForReading(document);
// Only a secure page may have one; without it the open page goes on all the same.
if (import.meta.env.PROD && "serviceWorker" in navigator)
  navigator.serviceWorker.register("/sw.js").catch(() => undefined);

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <PersistQueryClientProvider
        client={client}
        persistOptions={carried}
        onSuccess={() => client.invalidateQueries()}
      >
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </PersistQueryClientProvider>
    </StrictMode>,
  );
}
