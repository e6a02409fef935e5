import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";

const kib = (n: number) => `${Math.round(n * 10) / 10} KiB`;

/** How the flash of a board is used, as a bar: bootloader, build, features, what is free. What is
 * claimed is hatched, what is observed is filled. */
export function FlashBar({ memory: m }: { memory: Schemas["FlashUse"] }) {
  const over = m.known && m.free < 0;
  const whole = Math.max(
    m.kib,
    m.shares.reduce((sum, s) => sum + s.kib, 0),
    1,
  );
  const shades = ["var(--color-accent)", "var(--color-line)", "var(--color-dim)"];
  return (
    <div>
      {m.missing.length > 0 && (
        <p>
          <State tone="look">Cannot be told whole</State>: {m.missing.join(", ")}{" "}
          {m.missing.length === 1 ? "is" : "are"} not on record.
        </p>
      )}
      {m.kib > 0 && (
        <>
          <div
            role="img"
            aria-label={`${kib(m.kib)} of flash: ${m.shares.map((s) => `${s.name} ${kib(s.kib)}`).join(", ")}${m.known ? `, ${over ? `${kib(-m.free)} too much` : `${kib(m.free)} free`}` : ""}`}
            className="my-2 flex h-10 w-full overflow-hidden border-2 border-line bg-leaf"
          >
            {m.shares.map((s, i) => (
              <div
                key={s.name}
                className="h-full border-r-2 border-leaf"
                style={{
                  width: `${(100 * s.kib) / whole}%`,
                  background: s.claimed
                    ? `repeating-linear-gradient(135deg, ${shades[i % 3]} 0 5px, transparent 5px 10px)`
                    : shades[i % 3],
                }}
              />
            ))}
          </div>
          <ul className="flex flex-wrap gap-x-6">
            {m.shares.map((s) => (
              <li key={s.name}>
                <b>{s.name}</b> {kib(s.kib)} <span className="text-dim">{s.claimed ? "as stated" : "as observed"}</span>
              </li>
            ))}
          </ul>
          <p className="text-lg">
            {m.known ? (
              <State tone={over ? "bad" : m.least < 0 ? "look" : "good"}>
                {over
                  ? `${kib(-m.free)} too large`
                  : m.least < 0
                    ? `Between ${kib(-m.least)} too large and ${kib(m.free)} free`
                    : m.least < m.free
                      ? `${kib(m.least)} to ${kib(m.free)} free`
                      : `${kib(m.free)} free`}{" "}
                of {kib(m.kib)}
              </State>
            ) : (
              <State tone="look">What is free cannot be told</State>
            )}{" "}
            <span className="text-dim">
              ({kib(m.kib)} is {m.grade})
            </span>
          </p>
        </>
      )}
      {m.withoutBootloader && (
        <p className="text-dim">
          Leaving the bootloader out: {kib(m.bootloader)}. {m.withoutBootloader}
        </p>
      )}
    </div>
  );
}
