import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { keepThePage } from "./api/lastSeen";
import { App } from "./App";
import "./app.css";

const Toaster = lazy(() => import("sonner").then((made) => ({ default: made.Toaster })));
const cache = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } });
const root = document.getElementById("root");
if (root === null) throw new Error("no root element");
if (import.meta.env.PROD) keepThePage();
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={cache}>
      <BrowserRouter>
        <App />
      </BrowserRouter>
      <Suspense fallback={null}>
        <Toaster position="top-center" duration={6000} closeButton />
      </Suspense>
    </QueryClientProvider>
  </StrictMode>,
);
