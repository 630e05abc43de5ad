import { ApiError, answered, api } from "../../../api/client";
import type { GatewayAnswer, GatewaySettings } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { whole } from "../../../ui/format";
import { useAction } from "../../../ui/useAction";

/** One press: asks the gateway once, with what is typed, saved or not, and says what it got. */
export function GatewayTest({
  siteId,
  gateway,
  onAnswer,
  onRefused,
  onTrust,
}: {
  siteId: string;
  gateway: GatewaySettings;
  onAnswer?: (answer: GatewayAnswer) => void;
  onRefused?: (error: ApiError | null) => void;
  onTrust: (certificate: string) => void;
}) {
  const test = useAction(
    undefined,
    async () => {
      onRefused?.(null);
      const path = { params: { path: { id: siteId } } };
      const asked = answered(api.POST("/api/sites/{id}/gateway/test", { ...path, body: { gateway } }));
      const got = await asked.catch((failed) => {
        onRefused?.(failed instanceof ApiError ? failed : null);
        throw failed;
      });
      onAnswer?.(got);
      return got;
    },
    { beside: true },
  );
  const { busy, problem } = test;
  const answer: GatewayAnswer | undefined = busy ? undefined : test.answer;
  const look = answer?.look;
  const print = look?.certificate_sha256;
  return (
    <div className="flex flex-col gap-3">
      <Button
        className="self-start"
        disabled={busy || gateway.status_url.trim() === ""}
        onClick={() => test.run()}
      >
        {busy ? "Asking it…" : "Test this gateway"}
      </Button>
      <div role="status" className={look ? "border-l-4 border-structure pl-3" : ""}>
        {answer?.sentence && (
          <p className="text-lg">
            <strong>It works.</strong> {answer.sentence}
          </p>
        )}
        {look?.problem && (
          <p className="font-semibold text-starved">
            {look.problem.charAt(0).toUpperCase() + look.problem.slice(1)}.
          </p>
        )}
        {look && (
          <p className="text-sm text-muted">
            It took {whole(look.took_ms)} ms.
            {look.login_stopped && " No further login is tried until you say so below."}
          </p>
        )}
        {look?.problem && look.said && !look.page && (
          <p className="mt-1 rounded border border-rule p-2 text-sm break-all text-muted">
            It said: {look.said.slice(0, 300)}
          </p>
        )}
      </div>
      {print && (
        <div className="rounded-lg border border-edge p-3">
          <p>
            It signs its own certificate, as devices at home do. Vouch for it only if this computer is on the
            gateway's own network. SHA-256:
          </p>
          <p className="mt-1 font-mono text-sm break-all">{print}</p>
          <Button className="mt-2" onClick={() => onTrust(print)}>
            I vouch for this certificate
          </Button>
        </div>
      )}
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
    </div>
  );
}
