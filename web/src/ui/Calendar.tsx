import { DayPicker } from "react-day-picker";
import { weekStart } from "./weekStart";

const day =
  "size-10 data-[outside=true]:text-dim data-[selected=true]:bg-accent data-[selected=true]:text-on-accent data-[today=true]:underline";
const turn = "grid size-10 place-items-center border-2 border-line hover:border-accent disabled:opacity-60";

/** A month to choose a day from, by mouse, finger or arrow keys. */
export default function Calendar({ value, onChoose }: { value: string; onChoose: (iso: string) => void }) {
  const chosen = value ? new Date(`${value.slice(0, 10)}T12:00:00`) : undefined;
  return (
    <DayPicker
      mode="single"
      autoFocus
      captionLayout="label"
      weekStartsOn={weekStart()}
      selected={chosen}
      defaultMonth={chosen}
      startMonth={new Date(1990, 0)}
      onSelect={(d) => d && onChoose(isoOf(d))}
      classNames={{
        root: "p-3",
        months: "relative",
        month_caption: "flex h-10 items-center justify-center font-bold",
        nav: "absolute inset-x-0 top-0 flex justify-between",
        button_previous: turn,
        button_next: turn,
        chevron: "size-4 fill-current",
        weekday: "size-10 font-normal text-dim",
        day: `p-0 text-center ${day}`,
        day_button: "size-10 cursor-pointer hover:bg-wash hover:text-ink",
      }}
    />
  );
}

/** The day as it is shown, whatever the browser's time zone. */
function isoOf(d: Date) {
  const two = (n: number) => String(n).padStart(2, "0");
  return `${d.getFullYear()}-${two(d.getMonth() + 1)}-${two(d.getDate())}`;
}
