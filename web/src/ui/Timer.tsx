import { useEffect, useState } from "react";
import { Button } from "./form";

/** Counts a time down, over a reload too; after it, how long it is over. */
export function Timer({ place, seconds, what }: { place: string; seconds: number; what: string }) {
  const { passed, start, stop } = useStarted(place);
  if (passed === undefined)
    return (
      <Button onClick={start}>
        Time {minutes(seconds)}: {what}
      </Button>
    );
  const left = Math.ceil(seconds - passed);
  return (
    <div className="flex flex-wrap items-center gap-4">
      <p role="timer" className={`font-mono text-3xl font-bold ${left > 0 ? "" : "text-good"}`}>
        {left > 0 ? clock(left) : `over since ${clock(-left)}`}
      </p>
      <span className="text-dim">{what}</span>
      <Button onClick={stop}>Stop the timer</Button>
    </div>
  );
}

/** Counts up from a start that is pressed, and takes the time when something happens. */
export function Stopwatch({ place, take, onTake }: { place: string; take: string; onTake: (seconds: number) => void }) {
  const { passed, start, stop } = useStarted(place);
  if (passed === undefined) return <Button onClick={start}>Start the stopwatch: heater set</Button>;
  const seconds = Math.round(passed);
  return (
    <div className="flex flex-wrap items-center gap-4">
      <p role="timer" className="font-mono text-3xl font-bold">
        {clock(seconds)}
      </p>
      <Button
        main
        onClick={() => {
          stop();
          onTake(seconds);
        }}
      >
        {take}
      </Button>
    </div>
  );
}

/** Seconds since a start, which is kept over a reload; undefined where it was not started. */
function useStarted(place: string) {
  const key = `wardifex-timer:${place}`;
  const [since, setSince] = useState(() => Number(localStorage.getItem(key)) || 0);
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!since) return;
    const tick = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(tick);
  }, [since]);
  return {
    passed: since ? (now - since) / 1000 : undefined,
    start: () => {
      localStorage.setItem(key, String(Date.now()));
      setNow(Date.now());
      setSince(Date.now());
    },
    stop: () => {
      localStorage.removeItem(key);
      setSince(0);
    },
  };
}

function clock(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

function minutes(seconds: number): string {
  if (seconds < 60) return `${seconds} seconds`;
  const n = Math.round(seconds / 60);
  return n === 1 ? "one minute" : `${n} minutes`;
}
