import { readFileSync } from "node:fs";
import tailwindcss from "@tailwindcss/vite";
import react from "@vitejs/plugin-react";
import { defineConfig, type Plugin } from "vite";

/** Writes the service worker with the names of all files of this build in it. */
function serviceWorker(): Plugin {
  return {
    name: "service-worker",
    apply: "build",
    generateBundle(_, bundle) {
      const files = Object.keys(bundle).filter((name) => !name.endsWith(".map"));
      const source = readFileSync(new URL("./src/sw/worker.js", import.meta.url), "utf8");
      const wanted = [
        "/",
        "/theme.js",
        "/beacon.svg",
        ...files.filter((name) => name !== "index.html").map((name) => `/${name}`),
      ];
      this.emitFile({
        type: "asset",
        fileName: "sw.js",
        source: source.replace("self.WANTED", JSON.stringify([...new Set(wanted)].sort())),
      });
    },
  };
}

export default defineConfig({
  plugins: [react(), tailwindcss(), serviceWorker()],
  build: { target: "es2023", chunkSizeWarningLimit: 700 },
  server: { proxy: { "/api": { target: "http://127.0.0.1:7420", changeOrigin: true } } },
});
