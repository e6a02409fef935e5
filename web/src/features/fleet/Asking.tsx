import { useDeferredValue, useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { useDraft } from "../../ui/draft";
import { ColumnSelect, Filters } from "../../ui/fleet/Filters";
import { answerHref, complete, useAskable, usual } from "../../ui/fleet/question";
import { Selected } from "../../ui/fleet/Selected";
import { Button, TextInput } from "../../ui/form";
import { More, usePages } from "../../ui/pages";
import { Empty, Loaded } from "../../ui/states";
import { AnswerTable } from "./AnswerTable";
import { ColumnPicker } from "./ColumnPicker";
import { SaveQuestion } from "./SaveQuestion";
import { useQuestion } from "./useQuestion";
import { When } from "./When";

/** Machines at once: of many only what is on the screen is drawn. */
const MOST = 500;

export function Asking() {
  const askable = useAskable();
  const { question, text: typed, setQuestion, setText, clear } = useQuestion();
  const [view, setView] = useDraft("fleet-filter", { open: false, saved: 0 });
  const [picking, setPicking] = useState(false);
  const [selected, setSelected] = useState<readonly number[]>([]);
  const asked = { ...question, where: question.where.filter((f) => complete(f, askable.data?.tests ?? [])) };
  const text = useDeferredValue(typed.trim());
  const {
    query,
    first: answer,
    rows,
  } = usePages(
    keys.answer(JSON.stringify(asked), text),
    (offset) => unwrap(api.POST("/api/fleet/ask", { params: { query: { text, offset, limit: MOST } }, body: asked })),
    (page) => page.rows,
    (page) => page.found,
  );
  const columns = askable.data?.columns ?? [];
  const named = usual.find(([, where]) => JSON.stringify(where) === JSON.stringify(question.where))?.[0];
  const saved = askable.data?.saved ?? [];
  const chosen = saved.find((s) => s.id === view.saved && JSON.stringify(s.question) === JSON.stringify(question));
  function choose(key: string) {
    const mine = saved.find((s) => `saved ${s.id}` === key);
    const [, where] = usual.find(([name]) => name === key) ?? [];
    if (mine) setQuestion(mine.question);
    else if (where) setQuestion({ ...question, where, match: "" });
    setView({ ...view, saved: mine?.id ?? 0 });
  }
  return (
    <>
      <div className="no-print mb-3 flex flex-wrap items-end gap-3">
        <TextInput
          aria-label="Search the fleet"
          className="max-w-52"
          placeholder="Name or part"
          value={typed}
          onChange={setText}
        />
        <select
          aria-label="Question"
          className="min-h-11 max-w-72 border-2 border-line bg-leaf px-3 py-1.5 text-ink focus:border-accent"
          value={chosen ? `saved ${chosen.id}` : (named ?? "")}
          onChange={(e) => choose(e.target.value)}
        >
          <option value="" disabled>
            Your own question
          </option>
          <optgroup label="Usual">
            {usual.map(([name]) => (
              <option key={name} value={name}>
                {name}
              </option>
            ))}
          </optgroup>
          {saved.length > 0 && (
            <optgroup label="Saved here">
              {saved.map((s) => (
                <option key={s.id} value={`saved ${s.id}`}>
                  {s.name}
                </option>
              ))}
            </optgroup>
          )}
        </select>
        <Button aria-expanded={view.open} onClick={() => setView({ ...view, open: !view.open })}>
          {view.open ? "Close the filter" : "Filter"}
        </Button>
        <Button onClick={() => setPicking(true)}>Columns: {question.columns.length}</Button>
        <ColumnSelect
          label="Group by"
          empty="Not grouped"
          columns={columns}
          value={question.group ?? ""}
          onChange={(group) => setQuestion({ ...question, group })}
        />
        {answer && (
          <p className="ml-auto flex flex-wrap items-center gap-x-4 text-dim">
            <span>
              {answer.found} of {answer.of} machines
              {answer.untold > 0 && `, ${answer.untold} cannot be told: not known`}
              {(question.at || question.from) && `, as the record stood on ${showDay(answer.at)}`}
            </span>
            <a className="inline-flex min-h-10 items-center underline" href={answerHref(asked, "csv")}>
              As CSV
            </a>
            <a className="inline-flex min-h-10 items-center underline" href={answerHref(asked, "json")}>
              as JSON
            </a>
          </p>
        )}
      </div>
      {view.open && askable.data && (
        <div className="no-print mb-4 grid gap-4 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
          <Filters question={question} columns={columns} tests={askable.data.tests} onChange={setQuestion} />
          <div className="space-y-4">
            <When question={question} onChange={setQuestion} />
            <SaveQuestion
              question={question}
              chosen={chosen ?? saved.find((s) => s.id === view.saved)}
              onSaved={(id) => setView({ ...view, saved: id })}
            />
          </div>
        </div>
      )}
      {!answer ? (
        <Loaded query={query} what="Asking the fleet">
          {() => null}
        </Loaded>
      ) : (
        <>
          {rows.length === 0 ? (
            <Empty title="No machine is like that.">
              <Button onClick={clear}>Show all machines</Button>
            </Empty>
          ) : (
            <AnswerTable
              answer={{ ...answer, rows }}
              question={question}
              pages={query}
              selected={selected}
              onSelect={setSelected}
              onSort={(sort, down) => setQuestion({ ...question, sort, down })}
            />
          )}
          <More query={query} shown={rows.length} found={answer.found} what="machines" />
          {selected.length > 0 && <Selected ids={selected} onClear={() => setSelected([])} />}
        </>
      )}
      {picking && (
        <ColumnPicker
          columns={columns}
          picked={question.columns}
          onChange={(keys) => setQuestion({ ...question, columns: keys })}
          onClose={() => setPicking(false)}
        />
      )}
    </>
  );
}
