import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "react-router";
import { firstQuestion, type Question } from "../../ui/fleet/question";

type Asked = { question: Question; text: string };

/** The question to the fleet and the text sought, kept in the address: it can be bookmarked and sent.
 * What is typed is held here and told to the address, which follows a moment later. */
export function useQuestion() {
  const [address, setAddress] = useSearchParams();
  const [asked, setAsked] = useState<Asked>(() => askedIn(address));
  const now = address.toString();
  /** The address as it was told last, and what was told and has not arrived. */
  const told = useRef(now);
  const underWay = useRef<string[]>([]);
  useEffect(() => {
    const next = addressOf(asked).toString();
    if (next === told.current) return;
    told.current = next;
    underWay.current.push(next);
    setAddress(next, { replace: true });
  }, [asked, setAddress]);
  useEffect(() => {
    const arrived = underWay.current.indexOf(now);
    underWay.current = underWay.current.slice(arrived + 1);
    if (arrived >= 0 || now === told.current) return;
    told.current = now; // somebody followed a link, or went back
    setAsked(askedIn(new URLSearchParams(now)));
  }, [now]);
  return {
    question: asked.question,
    text: asked.text,
    setQuestion: (question: Question) => setAsked((a) => ({ ...a, question })),
    setText: (text: string) => setAsked((a) => ({ ...a, text })),
    clear: () => setAsked({ question: firstQuestion, text: "" }),
  };
}

function addressOf({ question, text }: Asked) {
  const out = new URLSearchParams();
  if (JSON.stringify(question) !== JSON.stringify(firstQuestion)) out.set("q", JSON.stringify(question));
  if (text) out.set("text", text);
  return out;
}

/** What an address asks; the first question where it cannot be read. */
function askedIn(address: URLSearchParams): Asked {
  const text = address.get("text") ?? "";
  try {
    const q = JSON.parse(address.get("q") ?? "null") as Question | null;
    if (q && Array.isArray(q.columns) && Array.isArray(q.where)) return { question: q, text };
  } catch {
    // Not written by this page.
  }
  return { question: firstQuestion, text };
}
