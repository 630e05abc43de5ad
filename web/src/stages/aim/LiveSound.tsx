import { useEffect, useRef, useState } from "react";
import type { LiveFigure } from "../../api/schema";

/** Lowest and highest pitch, Hz: easily told apart in wind. */
const PITCHES = [220, 1100] as const;
/** What of the figure is lowest and highest: dB of SINR, dBm of RSRP. */
const SPANS = { sinr: [-10, 30], rsrp: [-125, -65] } as const;

interface Player {
  context: AudioContext;
  tone: OscillatorNode;
  loud: GainNode;
}

/** A tone that rises with the number and a tick at a new best, for eyes that are needed elsewhere. Off until pressed. */
export function LiveSound({
  figure,
  shown,
  changed,
}: {
  figure: LiveFigure | null | undefined;
  shown: "sinr" | "rsrp";
  /** Another cell answers since a moment. */
  changed: boolean;
}) {
  const [on, setOn] = useState(false);
  const [volume, setVolume] = useState(0.4);
  const player = useRef<Player>(undefined);
  const best = useRef<{ shown: string; value: number }>(undefined);

  const start = () => {
    const context = new AudioContext();
    const tone = new OscillatorNode(context, { type: "triangle", frequency: PITCHES[0] });
    const loud = new GainNode(context, { gain: 0 });
    tone.connect(loud).connect(context.destination);
    tone.start();
    player.current = { context, tone, loud };
    setOn(true);
  };
  const stop = () => {
    void player.current?.context.close();
    player.current = undefined;
    setOn(false);
  };
  useEffect(() => () => void player.current?.context.close(), []);

  // The screen stays awake while it sounds, where the browser can keep it so.
  useEffect(() => {
    if (!on || !("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | undefined;
    let left = false;
    navigator.wakeLock
      .request("screen")
      .then((got) => {
        lock = got;
        if (left) void got.release();
      })
      .catch(() => {
        // Refused when the page is hidden or the battery low: the tone goes on without.
      });
    return () => {
      left = true;
      void lock?.release();
    };
  }, [on]);

  useEffect(() => {
    const playing = player.current;
    if (!on || !playing || !figure) return;
    const [low, high] = SPANS[shown];
    const share = Math.min(1, Math.max(0, (figure.value - low) / (high - low)));
    const at = playing.context.currentTime;
    playing.tone.frequency.setTargetAtTime(PITCHES[0] * (PITCHES[1] / PITCHES[0]) ** share, at, 0.15);
    playing.loud.gain.setTargetAtTime(volume * 0.5, at, 0.05);
    const before = best.current;
    if (before?.shown === shown && figure.best > before.value + 0.05) {
      const tick = new OscillatorNode(playing.context, { type: "square", frequency: 1760 });
      const brief = new GainNode(playing.context, { gain: volume * 0.4 });
      tick.connect(brief).connect(playing.context.destination);
      tick.start(at);
      tick.stop(at + 0.06);
    }
    best.current = { shown, value: figure.best };
  }, [on, figure, shown, volume]);

  // Another cell: two falling notes, unlike the tick of a new best.
  useEffect(() => {
    const playing = player.current;
    if (!on || !playing || !changed) return;
    const at = playing.context.currentTime;
    for (const [index, frequency] of [660, 330].entries()) {
      const note = new OscillatorNode(playing.context, { type: "sawtooth", frequency });
      const loud = new GainNode(playing.context, { gain: volume * 0.4 });
      note.connect(loud).connect(playing.context.destination);
      note.start(at + index * 0.18);
      note.stop(at + index * 0.18 + 0.15);
    }
  }, [on, changed, volume]);

  return (
    <div className="mt-2 flex flex-wrap items-center gap-3">
      <button
        type="button"
        aria-pressed={on}
        onClick={on ? stop : start}
        className={`min-h-14 flex-1 rounded-lg border px-3 font-semibold ${on ? "border-ink bg-lamp-wash" : "border-edge"}`}
      >
        {on ? "Stop sound" : "Play sound"}
      </button>
      {on && (
        <label className="flex min-h-14 items-center gap-2">
          Volume
          <input
            type="range"
            min={0.05}
            max={1}
            step={0.05}
            value={volume}
            onChange={(event) => setVolume(Number(event.target.value))}
            className="w-28 accent-[var(--lamp)]"
          />
        </label>
      )}
    </div>
  );
}
