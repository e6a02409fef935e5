import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";

/** Who imported which file, when. */
export function Imports() {
  const query = useQuery({ queryKey: keys.imports(), queryFn: () => unwrap(api.GET("/api/imports")) });
  if (!query.data?.length) return null;
  return (
    <section aria-labelledby="imports" className="mt-8">
      <h2 id="imports" className="mb-1 text-2xl font-bold">
        Imported before
      </h2>
      <ul className="bg-leaf">
        {query.data.slice(0, 20).map((i) => (
          <li key={`${i.at}${i.file}`} className="border-b border-rule px-3 py-2">
            <b>{i.file || `a ${i.what}`}</b>, {showDay(i.at)}, {i.by}:{" "}
            {Object.entries(i.result)
              .filter(([, n]) => n > 0)
              .map(([of, n]) => `${n} ${of}`)
              .join(", ") || "nothing new"}
          </li>
        ))}
      </ul>
    </section>
  );
}
