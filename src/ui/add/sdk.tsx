"use client";

import { useEffect, useState } from "react";
import type { Overview } from "@/core/api/releases";
import type { Language } from "@/core/code/languages";
import { type Setting, startUpOf } from "@/core/code/startUp";
import { CodeBlock } from "../frame/codeBlock";
import { ProblemNote } from "../frame/problemNote";
import { ask } from "../query/api";
import { useSenders } from "../query/services";
import { Blank } from "../sentence/blank";
import { LanguageSlot } from "../sentence/languageSlot";
import { Slot } from "../sentence/slot";
import { Listening } from "./listening";

const CHECKS = [
  "An SDK sends every 60 s unless OTEL_METRIC_EXPORT_INTERVAL says otherwise.",
  "Something has to be measured: an instrument that nothing was recorded with is not sent.",
  "Is the start-up code run before the first instrument is made? What comes before it measures nothing.",
  "In a container, localhost is the container itself: use the name or address of this machine.",
];

/** What all ways of sending have in common: name, release, environment, and a token where one is wanted. */
export function useSetting(overview: Overview | undefined) {
  const [service, setService] = useState("my-service");
  const [release, setRelease] = useState("1.0.0");
  const [environment, setEnvironment] = useState("development");
  const [protocol, setProtocol] = useState<Setting["protocol"]>("http");
  const [token, setToken] = useState("");
  const port = (protocol === "http" ? overview?.intakePort : overview?.grpcPort) ?? 4318;
  const setting: Setting = { service, release, environment, protocol, port, token };
  return { setting, setService, setRelease, setEnvironment, setProtocol, setToken };
}

/** A token that is made on the spot and shown here once. */
export function TokenPart({ setting, onToken }: { setting: Setting; onToken: (token: string) => void }) {
  const senders = useSenders();
  const [problem, setProblem] = useState<unknown>(null);
  const make = async () => {
    try {
      const { text } = await ask("POST /api/senders/tokens", {
        body: { name: setting.service, environment: setting.environment },
      });
      setProblem(null);
      onToken(text);
    } catch (error) {
      setProblem(error);
    }
  };
  if (setting.token !== "")
    return (
      <p className="mt-1 text-muted">
        The token for <b>{setting.environment}</b> stands below. Keep it now: it is shown only here and only once.
      </p>
    );
  return (
    <p className="mt-1 text-muted">
      {senders.data?.needed
        ? "A token is needed to send: "
        : "No token is needed now; with one, its points can be told: "}
      <button type="button" className="slot" onClick={() => void make()}>
        make one for {setting.environment || "this environment"}
      </button>
      {problem !== null && <ProblemNote error={problem} />}
    </p>
  );
}

/** An SDK: what to set, what to write, and then the first points. */
export function SdkWay({ overview }: { overview: Overview | undefined }) {
  const [language, setLanguage] = useState<Language>("TypeScript");
  const { setting, setService, setRelease, setEnvironment, setProtocol, setToken } = useSetting(overview);
  const [since, setSince] = useState(0);
  useEffect(() => setSince(Date.now()), []);
  return (
    <>
      <p className="text-[15px] leading-relaxed">
        It is written in <LanguageSlot language={language} onChoose={setLanguage} />, called{" "}
        <Blank name="service" value={setting.service} onChange={setService} />, release{" "}
        <Blank name="release" value={setting.release} onChange={setRelease} />, runs in{" "}
        <Blank name="environment" value={setting.environment} onChange={setEnvironment} />, and sends over{" "}
        <Slot
          name="protocol"
          alignRight
          options={[
            { value: "http", label: "HTTP", note: `port ${overview?.intakePort ?? 4318}` },
            ...(overview?.grpcPort === 0
              ? []
              : [{ value: "grpc", label: "gRPC", note: `port ${overview?.grpcPort ?? 4317}` }]),
          ]}
          onChoose={(value) => setProtocol(value as Setting["protocol"])}
        >
          {setting.protocol === "http" ? "HTTP" : "gRPC"}
        </Slot>
        .
      </p>
      <TokenPart setting={setting} onToken={setToken} />
      {since > 0 && <Listening service={setting.service} since={since} checks={CHECKS} />}
      <div className="mt-3 grid grid-cols-1 gap-3 lg:grid-cols-2">
        {startUpOf(language, setting).map(({ title, text }) => (
          <div key={title} className={title.startsWith("Start-up") ? "lg:col-span-2" : ""}>
            <CodeBlock title={title} text={text} />
          </div>
        ))}
      </div>
    </>
  );
}
