import { type ChildProcess, execFileSync, spawn } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { createInterface } from "node:readline";
import { test as base, type Page } from "@playwright/test";

const built = process.env.OPEN_BEACON_BUILT ?? join(import.meta.dirname, "../target/debug");

/** Starts a program and answers its first line that matches. */
async function started(
  name: string,
  args: string[],
  wanted: RegExp,
): Promise<{ child: ChildProcess; found: string }> {
  const child = spawn(join(built, name), args, { stdio: ["ignore", "pipe", "inherit"] });
  const lines = createInterface({ input: child.stdout });
  for await (const line of lines) {
    const found = wanted.exec(line);
    if (found) return { child, found: found[0] };
  }
  throw new Error(`${name} ended without saying that it is ready`);
}

const gone = (child: ChildProcess, signal: NodeJS.Signals) =>
  new Promise<void>((resolve) => {
    if (child.exitCode !== null || child.signalCode !== null) return resolve();
    child.once("exit", () => resolve());
    child.kill(signal);
  });

interface Addresses {
  status_url: string;
  speed_url: string;
  control_url: string;
}

/** The application over a data folder of its own, with stand-in devices. */
export class Program {
  readonly data = mkdtempSync(join(tmpdir(), "open-beacon-"));
  address = "";
  addresses: Addresses = { status_url: "", speed_url: "", control_url: "" };
  private application?: ChildProcess;
  private standIn?: ChildProcess;
  private port = "0";

  async start(...options: string[]): Promise<void> {
    const { child, found } = await started(
      "open-beacon",
      ["--data", this.data, "--port", this.port, ...options],
      /ready at http:\/\/[\d.:]+/,
    );
    this.application = child;
    this.address = found.replace("ready at ", "");
    this.port = found.split(":").at(-1) ?? "0";
  }

  async startStandIn(refresh_ms = 500): Promise<void> {
    const { child, found } = await started(
      "open-beacon-stand-in",
      ["serve", "--refresh-ms", String(refresh_ms), "--hurry", "6"],
      /\{.*\}/,
    );
    this.standIn = child;
    this.addresses = JSON.parse(found) as Addresses;
  }

  /** Brings the demo site in, before the application is started. */
  importDemo(): void {
    const file = join(this.data, "demo.json");
    const { status_url, speed_url, control_url } = this.addresses;
    const urls = ["--status-url", status_url, "--speed-url", speed_url, "--control-url", control_url];
    execFileSync(join(built, "open-beacon-stand-in"), ["demo-site", ...urls, file]);
    execFileSync(join(built, "open-beacon"), ["--data", this.data, "import", "--allow-requests", file]);
  }

  async fault(kind: string, for_ms = 90_000): Promise<void> {
    await fetch(`${this.addresses.control_url}/fault?for_ms=${for_ms}`, {
      method: "PUT",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(kind),
    });
  }

  async stop(signal: NodeJS.Signals = "SIGTERM"): Promise<void> {
    if (this.application) await gone(this.application, signal);
  }

  async end(): Promise<void> {
    await this.stop("SIGKILL");
    if (this.standIn) await gone(this.standIn, "SIGKILL");
    rmSync(this.data, { recursive: true, force: true });
  }
}

/** Changes sections of a site's settings as another screen would. */
export async function changeSettings(
  page: Page,
  site: string,
  change: Record<string, object>,
): Promise<void> {
  await page.evaluate(
    async ([id, wanted]) => {
      const { settings, settings_versions } = await (await fetch(`/api/sites/${id}`)).json();
      const sections = Object.fromEntries(
        Object.entries(wanted as Record<string, object>).map(([name, part]) => [
          name,
          { seen: settings_versions[name] ?? 0, value: { ...settings[name], ...part } },
        ]),
      );
      await fetch(`/api/sites/${id}/settings`, {
        method: "PATCH",
        headers: { "content-type": "application/json" },
        body: JSON.stringify({ sections }),
      });
    },
    [site, change] as const,
  );
}

/** Speed tests of a second a direction: what is tested is the way of the figures, not the figures. */
export const SHORT_TESTS = { speed_test: { warm_up_s: 0.2, phase_s: 1 } };

/** Tests with `program` empty, or `demo` with the demo site and stand-in devices. */
export const test = base.extend<{ program: Program; demo: Program }>({
  program: async ({ page: _ }, use) => {
    const program = new Program();
    await program.start();
    await use(program);
    await program.end();
  },
  demo: async ({ page: _ }, use) => {
    const program = new Program();
    await program.startStandIn();
    program.importDemo();
    await program.start();
    await use(program);
    await program.end();
  },
});

export { expect } from "@playwright/test";

/** Opens the demo site and answers its address without a stage. */
export async function openDemo(page: Page, demo: Program): Promise<string> {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  return page.url().replace(/\/log.*/, "");
}
