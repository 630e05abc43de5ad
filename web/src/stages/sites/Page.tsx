import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { ThemeSwitch } from "../../shell/ThemeSwitch";

/** A page outside any site. */
export function Page({ title, lead, children }: { title: string; lead?: string; children: ReactNode }) {
  return (
    <div className="min-h-screen">
      <header className="flex items-center justify-between bg-bar px-5 py-2 text-bar-ink">
        <Link to="/" className="text-lg font-bold">
          Open Beacon
        </Link>
        <ThemeSwitch />
      </header>
      <main className="mx-auto max-w-2xl px-6 py-10">
        <h1 className="text-3xl font-bold">{title}</h1>
        {lead && <p className="mt-2 text-lg text-muted">{lead}</p>}
        {children}
      </main>
    </div>
  );
}
