import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { TaskPanel } from "./TaskPanel";
import { conditionWords, dueWords } from "./taskWords";

type Task = Schemas["ShopTask"];

/** The maintenance that this shop does, and how often. */
export default function TasksPage() {
  const mayWork = useMayWork();
  const query = useQuery({ queryKey: keys.tasks(), queryFn: () => unwrap(api.GET("/api/tasks")) });
  const [editing, setEditing] = useState<Task | "new">();
  return (
    <Page
      title="Maintenance tasks"
      lead="What is done in this shop, and how often. A starting point, not a law: learn from your failures."
      actions={
        <>
          <LinkButton to="/due">What is due</LinkButton>
          {mayWork && (
            <Button main onClick={() => setEditing("new")}>
              New task
            </Button>
          )}
        </>
      }
    >
      <Loaded query={query} what="Reading the tasks">
        {(book) => (
          <>
            <table className="w-full border-collapse bg-leaf text-left">
              <thead className="border-b-2 border-line">
                <tr>
                  {["Task", "Due after", "Takes", "Done by", ""].map((h, i) => (
                    <th key={h} scope="col" className={`px-3 py-1 ${i === 2 || i === 3 ? "max-sm:hidden" : ""}`}>
                      {h}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {book.tasks.map((t) => (
                  <Line key={t.key} task={t} onEdit={mayWork ? () => setEditing(t) : undefined} />
                ))}
              </tbody>
            </table>
            {editing && (
              <TaskPanel
                key={editing === "new" ? "new" : editing.key}
                task={editing === "new" ? undefined : book.tasks.find((t) => t.key === editing.key)}
                book={book}
                onClose={() => setEditing(undefined)}
              />
            )}
          </>
        )}
      </Loaded>
    </Page>
  );
}

function Line({ task: t, onEdit }: { task: Task; onEdit?: () => void }) {
  return (
    <tr className={`border-b border-rule align-top ${t.off ? "text-dim" : ""}`}>
      <th scope="row" className="px-3 py-1.5 font-bold">
        {t.title}
        <span className="block text-sm font-normal text-dim">
          {t.off ? "not done in this shop" : t.version > 0 ? (t.ships ? "changed by this shop" : "of this shop") : ""}
        </span>
      </th>
      <td className="px-3 py-1.5">
        {dueWords(t)}
        {t.when.map((c) => (
          <span key={c.words} className="block text-sm text-dim">
            {conditionWords(c)}
          </span>
        ))}
      </td>
      <td className="px-3 py-1.5 whitespace-nowrap max-sm:hidden">
        {t.minutes ? `${t.minutes} min` : ""}
        <span className="block text-sm text-dim">{t.cold ? "cold" : ""}</span>
      </td>
      <td className="px-3 py-1.5 max-sm:hidden">{t.skill || "anybody who works here"}</td>
      <td className="px-3 py-1.5 text-right">
        {onEdit && (
          <Button aria-label={`Change: ${t.title}`} onClick={onEdit}>
            Change
          </Button>
        )}
      </td>
    </tr>
  );
}
