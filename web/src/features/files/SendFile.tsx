import { useRef, useState } from "react";
import { messageOf, type Schemas } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { sendFile } from "../../ui/sendFile";
import { useRefresh } from "../../ui/write";
import { held } from "./held";
import { size } from "./words";

/** Takes a sliced file, dropped or chosen, reads it on the server as it goes, and shows its verdicts. */
export function SendFile() {
  const go = useGo();
  const refresh = useRefresh();
  const [sending, setSending] = useState<{ file: File; share: number }>();
  const [fault, setFault] = useState("");
  const [over, setOver] = useState(false);
  const stop = useRef<AbortController>(undefined);
  async function take(file: File | undefined) {
    if (!file) return;
    setFault("");
    setSending({ file, share: 0 });
    stop.current = new AbortController();
    try {
      const judged = await sendFile<Schemas["JudgedFile"]>(
        `/api/print-files?name=${encodeURIComponent(file.name)}`,
        file,
        (share) => setSending({ file, share }),
        stop.current.signal,
      );
      held.set(judged.id, file);
      await refresh();
      go(`/file/${judged.id}`);
    } catch (error) {
      setFault(messageOf(error));
    } finally {
      setSending(undefined);
    }
  }
  if (sending)
    return (
      <div role="status" className="border-2 border-line bg-leaf px-5 py-4">
        <p className="text-lg font-semibold">
          {sending.share < 1
            ? `Reading ${sending.file.name}: ${Math.floor(sending.share * 100)} % of ${size(sending.file.size)}`
            : `Judging ${sending.file.name} on every machine …`}
        </p>
        <progress className="mt-2 h-4 w-full" value={sending.share} max={1} aria-label="How far the file is read" />
        <Button className="mt-2" onClick={() => stop.current?.abort()}>
          Stop
        </Button>
      </div>
    );
  return (
    <div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping is the same as choosing the file inside */}
      <div
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          void take(e.dataTransfer.files[0]);
        }}
        className={`border-2 border-dashed px-5 py-6 ${over ? "border-accent bg-wash" : "border-line bg-leaf"}`}
      >
        <p className="mb-3 text-lg">
          Drop a sliced file here, plain or packed (.gz). It is read here alone; what is in it is not kept.
        </p>
        <label className="inline-flex min-h-11 cursor-pointer items-center border-2 border-accent bg-accent px-4 font-semibold text-on-accent focus-within:outline-3 focus-within:outline-offset-2 focus-within:outline-accent">
          Choose a file
          <input
            type="file"
            accept=".gcode,.gco,.g,.gc,.nc,.gz"
            className="sr-only"
            onChange={(e) => {
              void take(e.target.files?.[0]);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      <Fault text={fault} />
    </div>
  );
}
