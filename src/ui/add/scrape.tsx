"use client";

import { useQueryClient } from "@tanstack/react-query";
import { parseAsInteger, useQueryState } from "nuqs";
import { useEffect, useState } from "react";
import { type TargetEntry, type TargetRequest, type TrialAnswer, targetRequest } from "@/core/api/targets";
import { faultText } from "@/core/schema/fault";
import { OnlyWith } from "../frame/onlyWith";
import { ProblemNote } from "../frame/problemNote";
import { ApiProblem, ask } from "../query/api";
import { useTargets } from "../query/services";
import { Blank } from "../sentence/blank";
import { Slot } from "../sentence/slot";
import { Listening } from "./listening";
import { OfferTree } from "./offerTree";
import { TrialReport } from "./trialReport";

const CHECKS = ["The first scrape comes at once, later ones at its interval."];

const AUTH_WORDS: Record<TargetRequest["auth"], string> = {
  none: "nothing",
  bearer: "a bearer token",
  basic: "a name and password",
};

/** Labels as text, one a line: "service.version=3.2". */
function labelsOf(text: string): Record<string, string> {
  const labels: Record<string, string> = {};
  for (const line of text.split(/[\n,]/)) {
    const at = line.indexOf("=");
    if (at > 0) labels[line.slice(0, at).trim()] = line.slice(at + 1).trim();
  }
  return labels;
}

interface Draft extends Omit<TargetRequest, "labels" | "every" | "timeout" | "secret"> {
  every: string;
  timeout: string;
  labels: string;
  secret: string;
}

function draftOf(target: TargetEntry | null): Draft {
  if (!target)
    return {
      name: "",
      url: "http://localhost:9101/metrics",
      every: "15",
      timeout: "10",
      auth: "none",
      username: "",
      secret: "",
      labels: "deployment.environment.name=development",
      choice: { type: "all" },
      paused: false,
    };
  const { name, url, auth, username, choice, paused } = target;
  return {
    name,
    url,
    auth,
    username,
    choice,
    paused,
    every: String(target.every / 1000),
    timeout: String(target.timeout / 1000),
    secret: "",
    labels: Object.entries(target.labels)
      .map(([key, value]) => `${key}=${value}`)
      .join("\n"),
  };
}

function requestOf(draft: Draft, saved: TargetEntry | null): TargetRequest {
  const { every, timeout, labels, secret, ...rest } = draft;
  const keeps = secret === "" && saved?.hasSecret && saved.auth === draft.auth;
  return {
    ...rest,
    every: Math.round(Number(every) * 1000),
    timeout: Math.round(Number(timeout) * 1000),
    labels: labelsOf(labels),
    ...(keeps ? {} : { secret }),
  };
}

/** Where a draft of a new target waits while its page is left; its secret does not. */
const KEPT = "tin-target-draft";

/** A draft that is still there when one comes back to it. */
function useDraft(saved: TargetEntry | null): [Draft, (draft: Draft) => void] {
  const [draft, setDraft] = useState(() => draftOf(saved));
  useEffect(() => {
    if (saved) return;
    try {
      const kept = JSON.parse(sessionStorage.getItem(KEPT) ?? "null");
      if (kept) setDraft((now) => ({ ...now, ...kept }));
    } catch {
      // What was kept by another version is not taken.
    }
  }, [saved]);
  const change = (next: Draft) => {
    setDraft(next);
    if (!saved) sessionStorage.setItem(KEPT, JSON.stringify({ ...next, secret: undefined }));
  };
  return [draft, change];
}

/** A target to scrape: said in a sentence, tried, chosen from, saved, and then its first points. */
function ScrapeForm({ saved }: { saved: TargetEntry | null }) {
  const client = useQueryClient();
  const [draft, setDraft] = useDraft(saved);
  const [trial, setTrial] = useState<TrialAnswer | null>(null);
  const [trying, setTrying] = useState(false);
  const [problem, setProblem] = useState<unknown>(null);
  const [listening, setListening] = useState<{ id: number; name: string; since: number } | null>(null);
  const change = (part: Partial<Draft>) => setDraft({ ...draft, ...part });

  /** What was written, checked; null where it does not do. */
  const checked = (named: boolean): TargetRequest | null => {
    const request = requestOf(draft, saved);
    const parsed = targetRequest.safeParse(named ? request : { ...request, name: request.name || "unnamed" });
    if (parsed.success) return parsed.data;
    setProblem(
      new ApiProblem({ title: "This does not do yet", detail: faultText(parsed.error.issues[0].message) }, 400),
    );
    return null;
  };
  const tryIt = async () => {
    const request = checked(false);
    if (!request) return;
    setTrying(true);
    setProblem(null);
    setTrial(null);
    try {
      setTrial(await ask("POST /api/targets/try", { body: { ...request, ...(saved ? { id: saved.id } : {}) } }));
    } catch (error) {
      setProblem(error);
    } finally {
      setTrying(false);
    }
  };
  const save = async () => {
    const request = checked(true);
    if (!request) return;
    try {
      const since = Date.now();
      if (saved) await ask("PUT /api/targets/{id}", { params: { id: saved.id }, body: request });
      const id = saved ? saved.id : (await ask("POST /api/targets", { body: request })).id;
      setProblem(null);
      setListening({ id, name: request.name, since });
      await client.invalidateQueries({ queryKey: ["targets"] });
    } catch (error) {
      setProblem(error);
    }
  };
  const reached = trial?.offer != null;
  return (
    <>
      <p className="text-[15px] leading-loose">
        Ask{" "}
        <Blank
          name="address"
          value={draft.url}
          onChange={(url) => change({ url })}
          placeholder="http://host:port/metrics"
        />{" "}
        every <Blank name="interval in seconds" value={draft.every} onChange={(every) => change({ every })} /> s, for at
        most <Blank name="timeout in seconds" value={draft.timeout} onChange={(timeout) => change({ timeout })} /> s,
        showing{" "}
        <Slot
          name="what it is shown"
          options={(Object.keys(AUTH_WORDS) as Draft["auth"][]).map((value) => ({ value, label: AUTH_WORDS[value] }))}
          onChoose={(auth) => change({ auth: auth as Draft["auth"] })}
        >
          {AUTH_WORDS[draft.auth]}
        </Slot>
        {draft.auth === "basic" && (
          <>
            :{" "}
            <Blank
              name="user name"
              value={draft.username}
              onChange={(username) => change({ username })}
              placeholder="name"
            />
            {", "}
          </>
        )}
        {draft.auth !== "none" && (
          <>
            {" "}
            <Blank
              name={draft.auth === "basic" ? "password" : "bearer token"}
              type="password"
              value={draft.secret}
              onChange={(secret) => change({ secret })}
              placeholder={saved?.hasSecret && saved.auth === draft.auth ? "as saved" : "secret"}
            />
          </>
        )}
        , and call it{" "}
        <Blank name="service" value={draft.name} onChange={(name) => change({ name })} placeholder="lockers" />.
      </p>
      <label className="mt-1 block">
        <span className="text-muted">
          What else is true of it, one a line: <span className="num">service.version=3.2</span>
        </span>
        <textarea
          aria-label="extra labels"
          value={draft.labels}
          rows={2}
          onChange={(event) => change({ labels: event.target.value })}
          className="textarea textarea-sm num mt-0.5 block min-h-0 w-full max-w-xl"
        />
      </label>
      <p className="mt-2 flex gap-3">
        <OnlyWith right="own" what="To try it and have it scraped">
          <button
            type="button"
            className={`btn btn-sm ${reached ? "" : "btn-primary"}`}
            disabled={trying}
            onClick={() => void tryIt()}
          >
            {trying ? "Trying…" : trial ? "Try it again" : "Try it"}
          </button>
        </OnlyWith>
        {(reached || saved) && (
          <OnlyWith right="own" what="To save it">
            <button type="button" className="btn btn-sm btn-primary" onClick={() => void save()}>
              {saved ? "Save the change" : "Save and scrape"}
            </button>
          </OnlyWith>
        )}
        {trial?.failure && !reached && !saved && (
          <button type="button" className="slot" onClick={() => void save()}>
            save it all the same
          </button>
        )}
      </p>
      {problem !== null && (
        <div className="mt-3">
          <ProblemNote error={problem} />
        </div>
      )}
      {listening && (
        <Listening service={listening.name} since={listening.since} targetId={listening.id} checks={CHECKS} />
      )}
      {trial && <TrialReport trial={trial} />}
      {trial?.offer && (
        <OfferTree offer={trial.offer} choice={draft.choice} onChoose={(choice) => change({ choice })} />
      )}
    </>
  );
}

/** A page to be read: a new one, or the one that the address names. */
export function ScrapeWay() {
  const targets = useTargets();
  const [target] = useQueryState("target", parseAsInteger);
  const saved = targets.data?.find(({ id }) => id === target);
  if (target === null || saved) return <ScrapeForm key={target ?? 0} saved={saved ?? null} />;
  if (!targets.data) return null;
  return <ProblemNote error={new Error(`There is no target number ${target}; it may be deleted.`)} />;
}
