import { useQuery } from "@tanstack/react-query";
import { CalendarDays } from "lucide-react";
import { Popover } from "radix-ui";
import { lazy, Suspense, useLayoutEffect, useRef, useState } from "react";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { showDay } from "./dates";
import { Choices, TextInput } from "./form";
import { useHeldBack } from "./useHeldBack";

const Calendar = lazy(() => import("./Calendar"));

/** A day as it is typed, in any clear form, with how it is understood; told on as ISO 8601, "" when empty. */
export function DayInput({
  id,
  value,
  onChange,
  "aria-label": label,
}: {
  id: string;
  value: string;
  onChange: (iso: string) => void;
  "aria-label"?: string;
}) {
  const [text, setText] = useState(showDay(value));
  const [open, setOpen] = useState(false);
  const told = useRef(value);
  const before = useRef(value);
  if (value !== before.current) {
    before.current = value;
    if (value !== told.current) {
      told.current = value;
      setText(showDay(value)); // it was set from outside
    }
  }
  const empty = text.trim() === "";
  const read = useQuery({
    queryKey: keys.day(text),
    queryFn: () => unwrap(api.GET("/api/days", { params: { query: { text } } })),
    enabled: !empty,
    retry: false,
  });
  const day = empty ? "" : read.data?.value;
  const input = useRef<HTMLInputElement>(null);
  // In the commit itself: told a moment later, it and what is typed meanwhile would each overwrite the other.
  // biome-ignore lint/correctness/useExhaustiveDependencies: tells a day once, when it is read
  useLayoutEffect(() => {
    if (day === undefined || day === told.current) return;
    told.current = day;
    onChange(day);
  }, [day]);
  useHeldBack(input, text, empty ? undefined : read, empty ? "" : (read.data?.fault ?? ""));
  return (
    <>
      <div className="relative flex">
        <TextInput
          ref={input}
          id={id}
          aria-label={label}
          className="pr-12"
          autoComplete="off"
          aria-invalid={!!read.data?.fault}
          value={text}
          onChange={setText}
        />
        <Popover.Root open={open} onOpenChange={setOpen}>
          <Popover.Trigger
            type="button"
            aria-label="Choose in a calendar"
            className="absolute inset-y-0 right-0 grid w-11 place-items-center text-dim hover:text-ink"
          >
            <CalendarDays size={20} aria-hidden="true" />
          </Popover.Trigger>
          <Popover.Portal>
            <Popover.Content align="end" sideOffset={4} className="z-50 border-2 border-accent bg-leaf shadow-xl">
              <Suspense fallback={<p className="p-4">Opening the calendar …</p>}>
                <Calendar
                  value={value}
                  onChoose={(iso) => {
                    setText(showDay(iso));
                    setOpen(false);
                  }}
                />
              </Suspense>
            </Popover.Content>
          </Popover.Portal>
        </Popover.Root>
      </div>
      {!empty && read.data?.fault && (
        <Choices text={read.data.fault} meanings={read.data.meanings} onChoose={setText} />
      )}
      {!empty && read.data?.shown && read.data.shown !== text.trim() && (
        <p className="mt-1 text-sm text-dim">= {read.data.shown}</p>
      )}
    </>
  );
}
