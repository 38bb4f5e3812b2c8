import "./app/nonce";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import { QueryClientProvider } from "@tanstack/react-query";
import { StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { BrowserRouter } from "react-router";
import { queries } from "./app/api";
import { Routes } from "./routes";
import { SessionGate } from "./app/session";
import { Global } from "./ui/theme";

// The house's door is the day, before anything listens: a redirect that is drawn
// could overtake the first key.
if (location.pathname === "/") history.replaceState(null, "", "/today");

createRoot(document.getElementById("root")!).render(
  <StrictMode>
    <Global />
    <QueryClientProvider client={queries}>
      <BrowserRouter>
        {location.pathname === "/wall" ? (
          <Suspense>
            <Routes />
          </Suspense>
        ) : (
          <SessionGate>
            <Routes />
          </SessionGate>
        )}
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
