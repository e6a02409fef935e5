import type { ReactNode } from "react";
import { Link } from "react-router";

/** A link that looks like the buttons beside it: to a page, or to a download. */
export function LinkButton({
  to,
  href,
  main,
  label,
  children,
}: {
  to?: string;
  href?: string;
  main?: boolean;
  /** What it is called where its text alone does not say. */
  label?: string;
  children: ReactNode;
}) {
  const tone = main
    ? "border-accent bg-accent text-on-accent hover:brightness-125"
    : "border-line bg-leaf hover:border-accent hover:bg-wash";
  const look = `inline-flex min-h-11 items-center justify-center gap-2 border-2 px-4 font-semibold ${tone}`;
  return to ? (
    <Link to={to} className={look} aria-label={label}>
      {children}
    </Link>
  ) : (
    <a href={href} download className={look}>
      {children}
    </a>
  );
}
