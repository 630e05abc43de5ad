import { useState } from "react";

const THEMES = ["light", "dark", "sun"] as const;
type Theme = (typeof THEMES)[number];
const WORDS: Record<Theme, string> = { light: "Paper", dark: "Attic", sun: "Sun" };

function current(): Theme {
  const set = document.documentElement.dataset.theme;
  return THEMES.find((theme) => theme === set) ?? "light";
}

/** Paper, attic, sun: one press each way round. */
export function ThemeSwitch() {
  const [theme, setTheme] = useState<Theme>(current);
  const next = THEMES[(THEMES.indexOf(theme) + 1) % THEMES.length] ?? "light";
  const change = () => {
    document.documentElement.dataset.theme = next;
    try {
      localStorage.setItem("theme", next);
    } catch {
      // Without storage the choice lives as long as the page.
    }
    setTheme(next);
  };
  return (
    <button
      type="button"
      onClick={change}
      title={`Change to ${WORDS[next]}`}
      className="flex min-h-9 items-center gap-2 rounded-lg border border-bar-muted px-3 text-bar-ink"
    >
      <svg viewBox="0 0 16 16" className="size-4" aria-hidden="true">
        <circle cx="8" cy="8" r="6.6" fill="none" stroke="currentColor" strokeWidth="1.6" />
        {theme === "dark" && <circle cx="8" cy="8" r="6.6" fill="currentColor" />}
        {theme === "light" && <path d="M8 1.4 A6.6 6.6 0 0 1 8 14.6 Z" fill="currentColor" />}
        {theme === "sun" && <circle cx="8" cy="8" r="2.6" fill="currentColor" />}
      </svg>
      {WORDS[theme]}
    </button>
  );
}
