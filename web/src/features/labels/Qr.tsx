import qrcode from "qrcode-generator";
import { useMemo } from "react";

/** A QR code as one path, with the four modules of quiet zone that ISO/IEC 18004 asks for. */
export function Qr({ text }: { text: string }) {
  const { size, d } = useMemo(() => {
    const code = qrcode(0, "M");
    code.addData(text);
    code.make();
    const n = code.getModuleCount();
    let d = "";
    for (let y = 0; y < n; y++) {
      for (let x = 0; x < n; x++) if (code.isDark(y, x)) d += `M${x + 4} ${y + 4}h1v1h-1z`;
    }
    return { size: n + 8, d };
  }, [text]);
  return (
    <svg
      viewBox={`0 0 ${size} ${size}`}
      className="size-28 shrink-0 bg-white"
      role="img"
      aria-label={`Code for ${text}`}
      shapeRendering="crispEdges"
    >
      <path d={d} fill="black" />
    </svg>
  );
}
