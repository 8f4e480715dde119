"use client";

import { kindOfLook, LOOKS, type Look, lookAs } from "@/core/sheet/looks";
import { ORDERS } from "@/core/sheet/looks/definition";
import { EARLIER } from "@/core/window/earlier";
import { Slot } from "../../sentence/slot";
import { TextField } from "./textField";

const COUNTS = ["3", "5", "6", "10", "20", "40"].map((value) => ({ value }));

/** The settings of a way to look, as a sentence: each way has those that it needs. */
export function LookSentence({ look, onChange }: { look: Look; onChange: (look: Look, typed?: boolean) => void }) {
  const set = (part: object) => onChange({ ...look, ...part } as Look);
  const type = (part: object) => onChange({ ...look, ...part } as Look, true);
  return (
    <p className="mt-2 leading-loose">
      Looked at as{" "}
      <Slot
        name="way to look"
        options={LOOKS.map(({ as, name, note }) => ({ value: as, label: name, note }))}
        onChoose={(as) => onChange(lookAs(as as Look["as"], look))}
      >
        {kindOfLook(look.as).name}
      </Slot>
      {"over" in look && (
        <>
          , a bar for each{" "}
          <Slot
            name="what a bar is for"
            options={[
              { value: "time", label: "step in time" },
              { value: "values", label: "series" },
            ]}
            onChoose={(over) => set({ over })}
          >
            {look.over === "time" ? "step in time" : "series"}
          </Slot>
        </>
      )}
      {"order" in look && (
        <>
          ,{" "}
          <Slot name="order" options={ORDERS.map((value) => ({ value }))} onChoose={(order) => set({ order })}>
            {look.order}
          </Slot>
        </>
      )}
      {"top" in look && (
        <>
          , showing{" "}
          <Slot
            name="how many are shown"
            options={[{ value: "", label: "as many as there is room for" }, ...COUNTS]}
            accept={(text) => (/^[1-9]\d?$/.test(text) && Number(text) <= 60 ? null : "a number up to 60")}
            onChoose={(count) => set({ top: count === "" ? null : Number(count) })}
          >
            {look.top === null ? "as many as there is room for" : `the ${look.top} largest`}
          </Slot>
        </>
      )}
      {"rest" in look && (
        <>
          , the rest{" "}
          <Slot
            name="what becomes of the rest"
            options={[
              { value: "no", label: "counted" },
              { value: "yes", label: "added up" },
            ]}
            onChoose={(value) => set({ rest: value === "yes" })}
          >
            {look.rest ? "added up" : "counted"}
          </Slot>
        </>
      )}
      {"log" in look && (
        <>
          , on a{" "}
          <Slot
            name="kind of axis"
            options={[
              { value: "no", label: "plain" },
              { value: "yes", label: "logarithmic" },
            ]}
            onChoose={(value) => set({ log: value === "yes" })}
          >
            {look.log ? "logarithmic" : "plain"}
          </Slot>{" "}
          axis
        </>
      )}
      {"sums" in look && (
        <>
          ,{" "}
          <Slot
            name="sums"
            options={[
              { value: "no", label: "without sums" },
              { value: "yes", label: "with sums" },
            ]}
            onChoose={(value) => set({ sums: value === "yes" })}
          >
            {look.sums ? "with sums" : "without sums"}
          </Slot>
          ,{" "}
          <Slot
            name="bars in cells"
            options={[
              { value: "no", label: "without bars" },
              { value: "yes", label: "with bars" },
            ]}
            onChoose={(value) => set({ bars: value === "yes" })}
          >
            {look.bars ? "with bars" : "without bars"}
          </Slot>
        </>
      )}
      {"against" in look && (
        <>
          , against{" "}
          <Slot
            name="what it is held against"
            options={[{ value: "", label: "nothing" }, ...EARLIER]}
            onChoose={(against) => set({ against })}
          >
            {EARLIER.find(({ value }) => value === look.against)?.label ?? "nothing"}
          </Slot>
          , where{" "}
          <Slot
            name="what is good"
            options={[
              { value: "neither", label: "neither way is good" },
              { value: "up", label: "more is good" },
              { value: "down", label: "less is good" },
            ]}
            onChoose={(good) => set({ good })}
          >
            {{ neither: "neither way is good", up: "more is good", down: "less is good" }[look.good]}
          </Slot>
        </>
      )}
      {"from" in look && (
        <span className="ml-3 inline-flex gap-3">
          <TextField label="axis from" width="w-20" value={look.from} onChange={(from) => type({ from })} />
          <TextField label="to" width="w-20" value={look.to} onChange={(to) => type({ to })} />
        </span>
      )}
      {"link" in look && (
        <span className="ml-3 inline-flex">
          <TextField
            label="a row leads to"
            width="w-72"
            placeholder="/services/one?service={service.name}"
            value={look.link}
            onChange={(link) => type({ link })}
          />
        </span>
      )}
    </p>
  );
}
