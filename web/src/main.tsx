import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { App } from "./app/App";
import { Refused } from "./app/client";
import "./main.css";

const client = new QueryClient({
  defaultOptions: {
    queries: { staleTime: Infinity, retry: (n, e) => !(e instanceof Refused) && n < 20, retryDelay: 1000, networkMode: "always" },
    mutations: { networkMode: "always" },
  },
});

// An answer is drawn in the task that read it: the usual timer would cost a frame.
notifyManager.setScheduler(queueMicrotask);

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
