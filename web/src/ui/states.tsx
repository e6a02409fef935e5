import type { ReactNode } from "react";
import { Link, useRouteError } from "react-router";
import { messageOf } from "../api/client";
import { Button } from "./form";

export function Loading({ what }: { what: string }) {
  return (
    <p role="status" className="py-10 text-lg text-dim">
      {what} …
    </p>
  );
}

export function ErrorNotice({ error, again }: { error: unknown; again: () => void }) {
  return (
    <div role="alert" className="my-6 max-w-2xl border-l-4 border-bad bg-bad-wash px-5 py-4">
      <p className="text-lg font-semibold">{messageOf(error)}</p>
      <Button className="mt-3" onClick={again}>
        Try again
      </Button>
    </div>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="my-8 max-w-2xl border-l-4 border-line px-5 py-2">
      <p className="text-xl font-bold">{title}</p>
      {children && <div className="mt-2 text-dim">{children}</div>}
    </div>
  );
}

export function NotFound() {
  return (
    <Empty title="This page does not exist.">
      <Link to="/" className="inline-flex min-h-11 items-center underline underline-offset-4">
        To the fleet
      </Link>
    </Empty>
  );
}

/** A page that failed while it was drawn, or could not be fetched. */
export function ErrorPage() {
  const error = useRouteError();
  return (
    <div role="alert" className="my-6 max-w-2xl border-l-4 border-bad bg-bad-wash px-5 py-4">
      <p className="text-lg font-semibold">This page could not be shown.</p>
      <p>
        It says: {messageOf(error)} What you typed is kept; load the page again. If it happens again, tell whoever runs
        this application.
      </p>
      <Button className="mt-3" onClick={() => location.reload()}>
        Load it again
      </Button>
    </div>
  );
}

/** A query's three states in one place. */
export function Loaded<T>({
  query,
  what,
  children,
}: {
  query: { isPending: boolean; isError: boolean; error: unknown; data: T | undefined; refetch: () => unknown };
  what: string;
  children: (data: T) => ReactNode;
}) {
  if (query.data !== undefined) return children(query.data);
  if (query.isError) return <ErrorNotice error={query.error} again={() => query.refetch()} />;
  return <Loading what={what} />;
}
