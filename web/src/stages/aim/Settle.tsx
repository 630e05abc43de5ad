import { useEffect, useState } from "react";
import { useLink } from "../../api/queries";
import { Button } from "../../ui/Button";

const key = (sweep: string) => `restarted:${sweep}`;

/** Where the gateway is restarted after each turn: from the restart until it has answered for as long as it may still change. */
export function Settle({ sweep, siteId, settlesS }: { sweep: string; siteId: string; settlesS: number }) {
  const status = useLink(siteId).data?.status.kind;
  const [since, setSince] = useState(() => Number(sessionStorage.getItem(key(sweep)) ?? 0));
  const [lost, setLost] = useState(false);
  const [back, setBack] = useState(0);
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (since === 0) return;
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, [since]);
  useEffect(() => {
    if (since === 0) return;
    if (status === "unreachable" || status === "stale") {
      setLost(true);
      setBack(0);
    }
    if (status === "live") setBack((before) => before || Date.now());
  }, [status, since]);
  const begin = () => {
    const at = Date.now();
    sessionStorage.setItem(key(sweep), String(at));
    setSince(at);
    setLost(false);
    setBack(0);
  };
  const done = () => {
    sessionStorage.removeItem(key(sweep));
    setSince(0);
  };
  if (since === 0)
    return (
      <Button className="mt-2 min-h-14 w-full" onClick={begin}>
        I have restarted the gateway
      </Button>
    );
  const left = back > 0 ? Math.ceil(settlesS - (now - back) / 1000) : settlesS;
  return (
    <div className="mt-2 rounded-lg border border-edge p-3" role="status">
      {left <= 0 ? (
        <p className="text-xl font-bold">It has settled: measure.</p>
      ) : (
        <p className="text-xl font-bold">
          {back === 0
            ? `Restarted ${Math.round((now - since) / 1000)} s ago; it does not answer yet.`
            : lost
              ? `It answers again; let it settle for ${left} s more.`
              : `It has not gone silent yet. If it did restart, let it settle for ${left} s.`}
        </p>
      )}
      <Button look="plain" onClick={done}>
        {left <= 0 ? "Good" : "Measure without waiting"}
      </Button>
    </div>
  );
}
