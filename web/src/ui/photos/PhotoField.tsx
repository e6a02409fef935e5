import { useId } from "react";

/** Chooses a photo from the camera or a file, to be sent with a form. */
export function PhotoField({
  label,
  photo,
  onPhoto,
}: {
  label: string;
  photo?: File;
  onPhoto: (file: File | undefined) => void;
}) {
  const id = useId();
  return (
    <div>
      <label
        htmlFor={id}
        className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent"
      >
        {label}
        <input
          id={id}
          type="file"
          accept="image/*"
          capture="environment"
          className="sr-only"
          onChange={(e) => onPhoto(e.target.files?.[0])}
        />
      </label>
      {photo && <span className="ml-3">{photo.name}</span>}
    </div>
  );
}
