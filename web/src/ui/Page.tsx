import type { ReactNode } from "react";
import { useEffect } from "react";

export function Page({
  title,
  lead,
  actions,
  children,
}: {
  title: string;
  lead?: ReactNode;
  actions?: ReactNode;
  children: ReactNode;
}) {
  useEffect(() => {
    document.title = `${title} · Wardifex`;
  }, [title]);
  return (
    <>
      <header className="mb-4 flex flex-wrap items-end justify-between gap-x-6 gap-y-2 border-b-2 border-ink pb-2">
        <div className="min-w-0 compact:flex compact:flex-wrap compact:items-baseline compact:gap-x-4">
          <h1 className="text-3xl font-extrabold tracking-tight compact:text-2xl">{title}</h1>
          {lead && <div className="mt-1 text-dim compact:mt-0">{lead}</div>}
        </div>
        {actions && (
          <div className="no-print flex gap-2 max-sm:-mx-4 max-sm:w-screen max-sm:overflow-x-auto max-sm:px-4 max-sm:py-1 max-sm:*:shrink-0 sm:flex-wrap">
            {actions}
          </div>
        )}
      </header>
      {children}
    </>
  );
}
