"use client";

import { useEffect, useState } from "react";
import { pointByCommand, pointByHand } from "@/core/code/startUp";
import { CodeBlock } from "../frame/codeBlock";
import { Blank } from "../sentence/blank";
import { Listening } from "./listening";
import { KeyPart, useSetting } from "./sdk";
import type { WayProps } from "./ways";

const CHECKS = [
  "What did the command answer? “sent …”, or {} from curl; anything else says what is wrong.",
  "Does the command run on this machine?",
];

/** One point by hand: the ready command. */
export function HandWay({ overview }: WayProps) {
  const { setting, setService, setRelease, setEnvironment, setKey } = useSetting(overview);
  const [since, setSince] = useState(0);
  useEffect(() => setSince(Date.now()), []);
  const { service, release, environment } = setting;
  return (
    <>
      <p className="text-[15px] leading-relaxed">
        One temperature of <Blank name="service" value={service} onChange={(text) => void setService(text)} />, release{" "}
        <Blank name="release" value={release} onChange={(text) => void setRelease(text)} />, in{" "}
        <Blank name="environment" value={environment} onChange={(text) => void setEnvironment(text)} />.
      </p>
      <KeyPart setting={setting} onKey={setKey} />
      {since > 0 && <Listening service={service} since={since} checks={CHECKS} />}
      <div className="mt-3 grid grid-cols-1 gap-3">
        <CodeBlock title="In Tin Ladder's folder, every five seconds until Ctrl-C" text={pointByCommand(setting)} />
        <CodeBlock title="Once, with curl, from anywhere on this machine" text={pointByHand(setting)} />
      </div>
    </>
  );
}
