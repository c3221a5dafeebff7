import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { Toaster } from "sonner";
import { App } from "./App";
import { TipProvider } from "./parts/Tip";
import "./app.css";

const cache = new QueryClient({ defaultOptions: { queries: { retry: false, refetchOnWindowFocus: false } } });
const root = document.getElementById("root");
if (root === null) throw new Error("no root element");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={cache}>
      <BrowserRouter>
        <TipProvider delayDuration={300}>
          <App />
        </TipProvider>
      </BrowserRouter>
      <Toaster position="top-center" duration={6000} closeButton />
    </QueryClientProvider>
  </StrictMode>,
);
