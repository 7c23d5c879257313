import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./App";
import { dress } from "./parts/looks";
import "./style.css";

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 1_000,
      retry: (n, e) => n < 2 && (e as { status?: number }).status === 0,
      refetchOnWindowFocus: true,
    },
  },
});

dress();

const root = document.getElementById("root");
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <BrowserRouter>
          <App />
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  );
}
