import { QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { queryClient } from "./api/queries";
import { router } from "./router";
import { NoticeProvider } from "./ui/notices";
import "./styles.css";

const root = document.getElementById("root");
if (root === null) throw new Error("index.html has no root");
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={queryClient}>
      <NoticeProvider>
        <RouterProvider router={router} />
      </NoticeProvider>
    </QueryClientProvider>
  </StrictMode>,
);

// Opens without network where the browser allows it: over HTTPS, or on the computer itself.
if (import.meta.env.PROD && "serviceWorker" in navigator) void navigator.serviceWorker.register("/sw.js");
