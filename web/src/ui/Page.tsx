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
      <header className="mb-5 flex flex-wrap items-end justify-between gap-x-6 gap-y-3 border-b-2 border-ink pb-3">
        <div className="min-w-0">
          <h1 className="text-3xl font-extrabold tracking-tight">{title}</h1>
          {lead && <div className="mt-1 text-dim">{lead}</div>}
        </div>
        {actions && <div className="no-print flex flex-wrap gap-2">{actions}</div>}
      </header>
      {children}
    </>
  );
}
