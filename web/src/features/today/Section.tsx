import type { ReactNode } from "react";

/** A part of the page with its heading, a count and the way to more. */
export function Section({
  title,
  count,
  more,
  children,
}: {
  title: string;
  count?: number;
  more: ReactNode;
  children: ReactNode;
}) {
  return (
    <section>
      <h2 className="mb-1 flex items-baseline justify-between gap-4 border-b-2 border-line pb-1 text-xl font-bold">
        <span>
          {title} <span className="font-normal text-dim">{count}</span>
        </span>
        <span className="text-base font-normal">{more}</span>
      </h2>
      {children}
    </section>
  );
}

export const link = "inline-flex min-h-10 items-center underline underline-offset-4";
