import { useEffect, useState } from "react";
import { Button } from "./form";

/** Counts a time down, over a reload too; after it, how long it is over. */
export function Timer({ place, seconds, what }: { place: string; seconds: number; what: string }) {
  const key = `wardifex-timer:${place}`;
  const [since, setSince] = useState(() => Number(localStorage.getItem(key)) || 0);
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!since) return;
    const tick = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(tick);
  }, [since]);
  function start() {
    localStorage.setItem(key, String(Date.now()));
    setNow(Date.now());
    setSince(Date.now());
  }
  function stop() {
    localStorage.removeItem(key);
    setSince(0);
  }
  if (!since)
    return (
      <Button onClick={start}>
        Time {minutes(seconds)}: {what}
      </Button>
    );
  const left = Math.ceil(seconds - (now - since) / 1000);
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
  const key = `wardifex-timer:${place}`;
  const [since, setSince] = useState(() => Number(localStorage.getItem(key)) || 0);
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    if (!since) return;
    const tick = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(tick);
  }, [since]);
  const seconds = Math.round((now - since) / 1000);
  if (!since)
    return (
      <Button
        onClick={() => {
          localStorage.setItem(key, String(Date.now()));
          setNow(Date.now());
          setSince(Date.now());
        }}
      >
        Start the stopwatch: heater set
      </Button>
    );
  return (
    <div className="flex flex-wrap items-center gap-4">
      <p role="timer" className="font-mono text-3xl font-bold">
        {clock(seconds)}
      </p>
      <Button
        main
        onClick={() => {
          localStorage.removeItem(key);
          setSince(0);
          onTake(seconds);
        }}
      >
        {take}
      </Button>
    </div>
  );
}

function clock(seconds: number): string {
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, "0")}`;
}

function minutes(seconds: number): string {
  if (seconds < 60) return `${seconds} seconds`;
  const n = Math.round(seconds / 60);
  return n === 1 ? "one minute" : `${n} minutes`;
}
