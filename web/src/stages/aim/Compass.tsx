import { useEffect, useState } from "react";
import { Button } from "../../ui/Button";
import { bearing } from "../../ui/format";
import { wholeTurn } from "../../ui/number";

interface Turned extends DeviceOrientationEvent {
  /** Degrees from magnetic north, where a browser gives it so. */
  webkitCompassHeading?: number;
}
type Asks = typeof DeviceOrientationEvent & { requestPermission?: () => Promise<string> };

/** Degrees from magnetic north that the phone's top edge points to; none where the browser does not tell. */
function headingOf(event: Turned): number | undefined {
  if (typeof event.webkitCompassHeading === "number") return event.webkitCompassHeading;
  return event.absolute && event.alpha !== null ? wholeTurn(-event.alpha) : undefined;
}

/** The phone's own compass, where the browser gives it: rough, and rougher near steel. */
export function Compass({ declination, onTake }: { declination: number; onTake: (bearing: number) => void }) {
  const [on, setOn] = useState(false);
  const [heading, setHeading] = useState<number>();
  const [refused, setRefused] = useState("");
  useEffect(() => {
    if (!on) return;
    const heard = (event: Event) => {
      const magnetic = headingOf(event as Turned);
      if (magnetic !== undefined) setHeading(wholeTurn(magnetic + declination));
    };
    window.addEventListener("deviceorientationabsolute", heard);
    window.addEventListener("deviceorientation", heard);
    return () => {
      window.removeEventListener("deviceorientationabsolute", heard);
      window.removeEventListener("deviceorientation", heard);
    };
  }, [on, declination]);
  // Only where there is one to ask: phones, over HTTPS.
  if (!window.isSecureContext || !("DeviceOrientationEvent" in window) || !("ontouchstart" in window))
    return null;
  const start = async () => {
    const ask = (DeviceOrientationEvent as Asks).requestPermission;
    const answer = ask ? await ask().catch(() => "denied") : "granted";
    if (answer === "granted") setOn(true);
    else setRefused("The browser keeps its compass to itself; turn by the arrows.");
  };
  if (!on)
    return (
      <div className="mt-2">
        <Button className="min-h-14 w-full" onClick={() => void start()}>
          Use the phone's compass
        </Button>
        {refused && <p className="mt-1 text-muted">{refused}</p>}
      </div>
    );
  return (
    <div className="mt-2">
      <Button
        className="min-h-14 w-full"
        disabled={heading === undefined}
        onClick={() => heading !== undefined && onTake(heading)}
      >
        {heading === undefined
          ? "Waiting for the compass…"
          : `The phone points to ${bearing(heading)}: take it`}
      </Button>
      <p className="text-sm text-muted">
        Rough: ten degrees off is common, more near steel. Hold it flat, a metre from mast and gutter.
      </p>
    </div>
  );
}
