"use client";

import { useState } from "react";
import type { Look } from "@/core/sheet/looks";
import { saveFile } from "../frame/save";
import type { ShownReading } from "./looks/props";

/** A plate as a file: its figures, or its picture. */
export function PlateTake({ name, look, readings }: { name: string; look: Look; readings: readonly ShownReading[] }) {
  const [problem, setProblem] = useState<string | null>(null);
  const file = name.replace(/[^\p{L}\p{N}]+/gu, "-").replace(/^-|-$/g, "") || "plate";
  const csv = async () => {
    const [{ kindOfLook }, { stepsCsv, windowCsv }] = await Promise.all([
      import("@/core/sheet/looks"),
      import("@/core/sheet/shown/csv"),
    ]);
    const all = readings.map(({ asked, names, result }) => ({ text: asked, names, result }));
    const steps = kindOfLook(look.as).shows === "steps" || (look.as === "bars" && look.over === "time");
    saveFile(`${file}.csv`, steps ? stepsCsv(all) : windowCsv(all), "text/csv");
  };
  const picture = async (button: HTMLElement, kind: "png" | "svg") => {
    const plate = button.closest<HTMLElement>("[data-plate]");
    if (!plate) return;
    try {
      const [{ toBlob, toSvg }, { fontsOf }] = await Promise.all([import("html-to-image"), import("./pictureFonts")]);
      const options = {
        pixelRatio: 2,
        fontEmbedCSS: await fontsOf(plate),
        // What is there to be pressed is no part of the picture.
        filter: (node: HTMLElement) => !node.dataset?.beside,
      };
      if (kind === "svg") {
        const url = await toSvg(plate, options);
        saveFile(`${file}.svg`, decodeURIComponent(url.slice(url.indexOf(",") + 1)), "image/svg+xml");
      } else {
        const blob = await toBlob(plate, options);
        if (blob) saveFile(`${file}.png`, blob);
      }
      setProblem(null);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "the picture could not be made");
    }
  };
  return (
    <p
      data-beside="yes"
      className="absolute right-1.5 bottom-1.5 flex gap-3 rounded-xs bg-base-100 px-1.5 text-[12px] opacity-0 group-hover/plate:opacity-100 focus-within:opacity-100 print:hidden"
    >
      <button type="button" className="slot" onClick={() => void csv()}>
        CSV
      </button>
      <button type="button" className="slot" onClick={(event) => void picture(event.currentTarget, "png")}>
        PNG
      </button>
      <button type="button" className="slot" onClick={(event) => void picture(event.currentTarget, "svg")}>
        SVG
      </button>
      {problem && <span className="text-error">✕ {problem}</span>}
    </p>
  );
}
