import { useState } from "react";
import { Fault } from "../parts/form";
import { bytesOf, MAX_BYTES } from "./file";

/** Takes a file by choosing or dropping it. */
export function FileField({
  label,
  hint,
  onFile,
}: {
  label: string;
  hint: string;
  onFile: (name: string, bytes: string) => void;
}) {
  const [fault, setFault] = useState("");
  const [over, setOver] = useState(false);
  async function take(file: File | undefined) {
    if (!file) return;
    if (file.size > MAX_BYTES) {
      setFault(
        `"${file.name}" has ${(file.size / 1024 / 1024).toFixed(0)} MB; at most 8 MB are read at a time. Split it.`,
      );
      return;
    }
    setFault("");
    onFile(file.name, await bytesOf(file));
  }
  return (
    <div>
      <label
        onDragOver={(e) => {
          e.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(e) => {
          e.preventDefault();
          setOver(false);
          take(e.dataTransfer.files[0]);
        }}
        className={`block cursor-pointer border-2 border-dashed px-6 py-8 text-center focus-within:outline-3 focus-within:outline-brass ${over ? "border-brass bg-wash" : "border-line bg-leaf hover:border-brass"}`}
      >
        <b className="block text-xl">{label}</b>
        <span className="text-dim">{hint}</span>
        <input
          type="file"
          accept=".csv,.tsv,.txt,text/csv"
          className="sr-only"
          onChange={(e) => {
            take(e.target.files?.[0]);
            e.target.value = ""; // the same file, mended, can be chosen again
          }}
        />
      </label>
      <Fault text={fault} />
    </div>
  );
}
