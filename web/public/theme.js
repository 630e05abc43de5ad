// Set before the first paint, so that a dark room is not lit up for an instant.
(() => {
  let chosen = null;
  try {
    chosen = localStorage.getItem("theme");
  } catch {
    // Storage may be closed to us; the system's setting serves.
  }
  const dark = matchMedia("(prefers-color-scheme: dark)").matches;
  document.documentElement.dataset.theme = chosen ?? (dark ? "dark" : "light");
})();
