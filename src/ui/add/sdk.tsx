"use client";

import { parseAsString, parseAsStringLiteral, useQueryState } from "nuqs";
import { useEffect, useState } from "react";
import type { Overview } from "@/core/api/releases";
import { LANGUAGES, languageNamed } from "@/core/code/languages";
import type { Setting } from "@/core/code/languages/language";
import { type Sends, startUpOf } from "@/core/code/startUp";
import { CodeBlock } from "../frame/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useMay } from "../query/me";
import { useSenders } from "../query/services";
import { Blank } from "../sentence/blank";
import { LanguageSlot } from "../sentence/languageSlot";
import { Slot } from "../sentence/slot";
import { Listening } from "./listening";
import type { WayProps } from "./ways";

const CHECKS = [
  "An SDK sends every 60 s unless OTEL_METRIC_EXPORT_INTERVAL says otherwise.",
  "Something has to be measured: an instrument that nothing was recorded with is not sent.",
  "Is the start-up code run before the first instrument is made? What comes before it measures nothing.",
  "In a container, localhost is the container itself: use the name or address of this machine.",
];

const PROTOCOLS = ["http", "grpc"] as const;

/**
 * What all ways of sending have in common: name, release, environment, and a key where one is wanted. It stands in the
 * address, so that going back finds it as it was; the key does not.
 */
export function useSetting(overview: Overview | undefined) {
  const [service, setService] = useQueryState("called", parseAsString.withDefault("my-service"));
  const [release, setRelease] = useQueryState("release", parseAsString.withDefault("1.0.0"));
  const [environment, setEnvironment] = useQueryState("in", parseAsString.withDefault("development"));
  const [protocol, setProtocol] = useQueryState("over", parseAsStringLiteral(PROTOCOLS).withDefault("http"));
  const [key, setKey] = useState("");
  const port = (protocol === "http" ? overview?.intakePort : overview?.grpcPort) ?? 4318;
  const at = overview?.intakeAt ?? "http://localhost";
  const setting: Setting = { service, release, environment, protocol, at, port, key };
  return { setting, setService, setRelease, setEnvironment, setProtocol, setKey };
}

/** A key that is made on the spot and shown here once. */
export function KeyPart({ setting, onKey }: { setting: Setting; onKey: (key: string) => void }) {
  const senders = useSenders();
  const mayOwn = useMay("own");
  const [problem, setProblem] = useState<unknown>(null);
  const make = async () => {
    try {
      const { text } = await ask("POST /api/keys", {
        body: { name: setting.service, scopes: ["send"], environment: setting.environment },
      });
      setProblem(null);
      onKey(text);
    } catch (error) {
      setProblem(error);
    }
  };
  if (setting.key !== "")
    return (
      <p className="mt-1 text-muted">
        The key for <b>{setting.environment}</b> stands below. Keep it now: it is shown only here and only once.
      </p>
    );
  return (
    <p className="mt-1 text-muted">
      {senders.data?.needed ? "A key is needed to send: " : "No key is needed now; with one, its points can be told: "}
      {mayOwn ? (
        <button type="button" className="slot" onClick={() => void make()}>
          make one for {setting.environment || "this environment"}
        </button>
      ) : (
        "an owner can make one"
      )}
      {problem !== null && <ProblemNote error={problem} />}
    </p>
  );
}

const SENDS = ["automatic", "own"] as const satisfies readonly Sends[];
const SENDS_WORDS: Record<Sends, { label: string; note: string }> = {
  automatic: { label: "what its libraries tell", note: "calls, traces and logs, without code" },
  own: { label: "metrics of its own", note: "an SDK and start-up code" },
};

/** A service of ours: what to set, what to write or run, and then the first points. */
export function SdkWay({ overview }: WayProps) {
  const [languageName, setLanguage] = useQueryState("language", parseAsString.withDefault(LANGUAGES[0].name));
  const [sends, setSends] = useQueryState("sends", parseAsStringLiteral(SENDS).withDefault("automatic"));
  const language = languageNamed(languageName);
  const { setting, setService, setRelease, setEnvironment, setProtocol, setKey } = useSetting(overview);
  const [since, setSince] = useState(0);
  useEffect(() => setSince(Date.now()), []);
  return (
    <>
      <p className="text-[15px] leading-relaxed">
        It is written in <LanguageSlot language={language} onChoose={({ name }) => void setLanguage(name)} />, called{" "}
        <Blank name="service" value={setting.service} onChange={(text) => void setService(text)} />, release{" "}
        <Blank name="release" value={setting.release} onChange={(text) => void setRelease(text)} />, runs in{" "}
        <Blank name="environment" value={setting.environment} onChange={(text) => void setEnvironment(text)} />, and
        sends{" "}
        <Slot
          name="what it sends"
          options={SENDS.map((value) => ({ value, ...SENDS_WORDS[value] }))}
          onChoose={(value) => void setSends(value as Sends)}
        >
          {SENDS_WORDS[sends].label}
        </Slot>{" "}
        over{" "}
        <Slot
          name="protocol"
          options={[
            { value: "http", label: "HTTP", note: `port ${overview?.intakePort ?? 4318}` },
            ...(overview?.grpcPort === 0
              ? []
              : [{ value: "grpc", label: "gRPC", note: `port ${overview?.grpcPort ?? 4317}` }]),
          ]}
          onChoose={(value) => void setProtocol(value as Setting["protocol"])}
        >
          {setting.protocol === "http" ? "HTTP" : "gRPC"}
        </Slot>
        .
      </p>
      <KeyPart setting={setting} onKey={setKey} />
      {since > 0 && <Listening service={setting.service} since={since} checks={CHECKS} />}
      <div className="mt-3 grid grid-cols-1 gap-3 lg:grid-cols-2">
        {startUpOf(language, setting, sends).map(({ title, text }) => (
          <div key={title} className={title.startsWith("Start-up") ? "lg:col-span-2" : ""}>
            <CodeBlock title={title} text={text} />
          </div>
        ))}
      </div>
    </>
  );
}
