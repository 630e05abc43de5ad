import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../../api/client";
import { queryClient } from "../../../api/queries";
import type { Login, LoginStep } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextArea, TextField } from "../../../ui/Field";
import { useNotice } from "../../../ui/notices";
import { useAction } from "../../../ui/useAction";
import { BARE_STEP } from "./bare";

type Kind = "none" | "basic" | "form" | "steps";

const KINDS: readonly (readonly [Kind, string])[] = [
  ["none", "No: it answers anybody at home"],
  ["basic", "Name and password with each request (Basic)"],
  ["form", "A form with name and password"],
  ["steps", "Steps of your own: nonce, digest, token"],
];

const put = (name: string) => `\${${name}}`;

const FORM: LoginStep = {
  ...BARE_STEP,
  method: "post",
  path: "/login",
  send: "form",
  body: `user=${put("user")}&password=${put("password")}`,
};

/** A challenge answered by digests, a token sent back in a header: the commonest of the harder doors. */
const CHALLENGE: LoginStep[] = [
  {
    ...BARE_STEP,
    path: "/challenge",
    keep: [
      { name: "nonce", value: "/data/nonce" },
      { name: "csrf", value: "/data/csrf" },
    ],
  },
  {
    ...BARE_STEP,
    method: "post",
    path: "/login",
    compute: [
      { name: "digest", value: put("password|sha256") },
      { name: "answer", value: put("digest+nonce|sha256") },
    ],
    headers: [{ name: "X-Csrf-Token", value: put("csrf") }],
    send: "json",
    body: `{"user":"${put("user")}","nonce":"${put("nonce")}","answer":"${put("answer")}"}`,
    must_hold: { name: "/result", value: "ok" },
  },
];

const isForm = (steps: LoginStep[]) =>
  steps.length === 1 && steps[0]?.send !== "json" && !steps[0]?.keep.length;

/** How one signs in. Name and password go into a place of their own: no export, no log holds them. */
export function SignIn({
  siteId,
  address,
  login,
  onChange,
  problem,
}: {
  siteId: string;
  /** Of the device: name and password are kept for it alone. */
  address: string;
  login: Login;
  onChange: (login: Login) => void;
  problem: (pointer: string) => string | undefined;
}) {
  const kind: Kind = login.kind === "steps" ? (isForm(login.steps) ? "form" : "steps") : login.kind;
  const choose = (next: Kind) => {
    if (next === "none" || next === "basic") onChange({ kind: next });
    else onChange({ kind: "steps", steps: next === "form" ? [FORM] : CHALLENGE });
  };
  const steps = login.kind === "steps" ? login.steps : [];
  const first = steps[0];
  return (
    <div className="flex flex-col gap-4">
      <ChoiceField label="Does it want to be signed in to?" value={kind} choices={KINDS} onChange={choose} />
      {kind === "form" && first && (
        <div className="grid gap-4 sm:grid-cols-[12rem_1fr]">
          <TextField
            label="Form is sent to"
            value={first.path}
            onChange={(path) => onChange({ kind: "steps", steps: [{ ...first, path }] })}
            error={problem("/gateway/recipe/login/steps/0/path")}
          />
          <TextField
            label="Fields of the form"
            hint="Name and password are put in where the braces stand"
            value={first.body}
            onChange={(body) => onChange({ kind: "steps", steps: [{ ...first, body }] })}
          />
        </div>
      )}
      {kind === "steps" && (
        <Steps steps={steps} onChange={(next) => onChange({ kind: "steps", steps: next })} />
      )}
      {kind !== "none" && <Secrets siteId={siteId} address={address} />}
    </div>
  );
}

function Steps({ steps, onChange }: { steps: LoginStep[]; onChange: (steps: LoginStep[]) => void }) {
  const [typed, setTyped] = useState(() => JSON.stringify(steps, null, 2));
  const [problem, setProblem] = useState<string>();
  return (
    <TextArea
      label="Requests, in order, as JSON"
      hint="Each may compute values, keep parts of the answer by JSON Pointer, and put them in with braces; sha256, sha1, md5, base64 and upper are known. The guide has the list."
      rows={14}
      value={typed}
      error={problem}
      onChange={(text) => {
        setTyped(text);
        try {
          onChange(JSON.parse(text) as LoginStep[]);
          setProblem(undefined);
        } catch (error) {
          setProblem(
            `Not JSON yet: ${error instanceof Error ? error.message : "look at commas and quotes"}.`,
          );
        }
      }}
    />
  );
}

function Secrets({ siteId, address }: { siteId: string; address: string }) {
  const path = { params: { path: { id: siteId }, query: { address } } };
  const key = ["sign-in", siteId, address];
  const kept = useQuery({
    queryKey: key,
    queryFn: () => answered(api.GET("/api/sites/{id}/gateway/sign-in", path)),
  }).data;
  const [user, setUser] = useState<string>();
  const [password, setPassword] = useState("");
  const notice = useNotice();
  const again = () => queryClient.invalidateQueries({ queryKey: key });
  const keep = useAction(undefined, async (name: string) => {
    await answered(
      api.PUT("/api/sites/{id}/gateway/sign-in", {
        params: { path: { id: siteId } },
        body: { user: name, password: password === "" ? null : password, address },
      }),
    );
    setPassword("");
    await again();
    notice(
      "Name and password are kept on this computer for this address alone, apart from everything that is exported.",
    );
  });
  const retry = useAction(undefined, async () => {
    await answered(api.POST("/api/sites/{id}/gateway/sign-in/again", path));
    await again();
    notice("It will be tried again.");
  });
  if (!kept) return null;
  return (
    <div className="flex flex-col gap-3 border-l-4 border-structure pl-3">
      {kept.stopped && (
        <div role="alert">
          <p className="font-semibold text-starved">
            Two logins failed. No further one is tried, so that the gateway does not lock you out.
          </p>
          <Button className="mt-2" onClick={() => retry.run()}>
            Try again with the same
          </Button>
        </div>
      )}
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField label="Name" value={user ?? kept.user} onChange={setUser} autoComplete="off" />
        <TextField
          label="Password"
          type="password"
          hint={kept.has_password ? "One is kept; left empty it stays" : undefined}
          value={password}
          onChange={setPassword}
          autoComplete="new-password"
        />
      </div>
      <Button className="self-start" onClick={() => keep.run(user ?? kept.user)}>
        Keep name and password
      </Button>
    </div>
  );
}
