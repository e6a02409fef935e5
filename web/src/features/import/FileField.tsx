import { useState } from "react";
import { Fault } from "../../ui/form";

/** Takes a file by choosing or dropping it. */
export function FileField({
  label,
  hint,
  accept = ".csv,.tsv,.txt,text/csv",
  most,
  onFile,
}: {
  label: string;
  hint: string;
  accept?: string;
  most: number;
  onFile: (file: File) => void;
}) {
  const [fault, setFault] = useState("");
  const [over, setOver] = useState(false);
  function take(file: File | undefined) {
    if (!file) return;
    if (file.size > most) {
      setFault(
        `"${file.name}" has ${(file.size / 1024 / 1024).toFixed(0)} MB; at most ${most / 1024 / 1024} MB are read at a time. Split it.`,
      );
      return;
    }
    setFault("");
    onFile(file);
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
        className={`block cursor-pointer border-2 border-dashed px-6 py-8 text-center focus-within:outline-3 focus-within:outline-accent ${over ? "border-accent bg-wash" : "border-line bg-leaf hover:border-accent"}`}
      >
        <b className="block text-xl">{label}</b>
        <span className="text-dim">{hint}</span>
        <input
          type="file"
          accept={accept}
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
