import type { Schemas } from "../api/client";
import { Button, TextInput } from "./form";

type Hours = Schemas["Hours"];

const days = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
const firstDay = { sunday: 0, monday: 1, saturday: 6 };

/** Hours of every week, when the shop is open or somebody works: for each day any number of stretches. */
export function OpeningHours({
  weekStart,
  hours,
  onChange,
  legend = "Opening hours",
  none = "closed",
}: {
  weekStart: keyof typeof firstDay;
  hours: readonly Hours[];
  onChange: (hours: Hours[]) => void;
  legend?: string;
  /** Of a day without any. */
  none?: string;
}) {
  const week = days.map((_, i) => (firstDay[weekStart] + i) % 7);
  const set = (index: number, h: Hours) => onChange(hours.map((was, i) => (i === index ? h : was)));
  return (
    <fieldset>
      <legend className="mb-1 font-semibold">{legend}</legend>
      <ul className="bg-leaf">
        {week.map((day) => (
          <li key={day} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule px-3 py-1">
            <span className="w-28">{days[day]}</span>
            {hours.map((h, i) =>
              h.day !== day ? null : (
                // biome-ignore lint/suspicious/noArrayIndexKey: a stretch has no other name than its place
                <span key={i} className="flex items-center gap-1">
                  <TextInput
                    aria-label={`${days[day]}, from`}
                    className="max-w-20"
                    pattern="[0-2][0-9]:[0-5][0-9]"
                    title="A time such as 09:30"
                    value={h.from}
                    onChange={(from) => set(i, { ...h, from })}
                  />
                  to
                  <TextInput
                    aria-label={`${days[day]}, to`}
                    className="max-w-20"
                    pattern="[0-2][0-9]:[0-5][0-9]"
                    title="A time such as 18:00; 24:00 is the end of the day"
                    value={h.to}
                    onChange={(to) => set(i, { ...h, to })}
                  />
                  <Button
                    aria-label={`Remove ${days[day]}, ${h.from} to ${h.to}`}
                    onClick={() => onChange(hours.filter((_, at) => at !== i))}
                  >
                    ×
                  </Button>
                </span>
              ),
            )}
            <Button
              aria-label={`Add hours on ${days[day]}`}
              onClick={() => onChange([...hours, { day, from: "09:00", to: "17:00" }])}
            >
              Add
            </Button>
            {!hours.some((h) => h.day === day) && <span className="text-dim">{none}</span>}
          </li>
        ))}
      </ul>
    </fieldset>
  );
}
