import type { ServiceOutlook } from "@/core/api/home";
import type { runJob } from "@/engine/pool";
import type { ServiceToLookAt } from "@/store/releases/outlooks";
import { rounds } from "./jobs";

const PLACES = ["heavy", "light", "last"].map((service) => ({ service, environment: "production" }));
const FOUND: ServiceOutlook = { from: 0, to: 1, rate: 3, serving: [], errors: 0, verdict: null };

/** A round over three services, of which the engine answers each as told. */
async function oneRound(answer: (service: string, signal: AbortSignal) => Promise<unknown>) {
  const noted = new Map<string, ServiceOutlook>();
  const failed = new Map<string, ServiceOutlook>();
  const warned: unknown[] = [];
  const pass = rounds<"outlook">(
    { warn: (what: unknown) => warned.push(what) } as never,
    {
      type: "outlook",
      due: async () => PLACES,
      note: async (_, { service }: ServiceToLookAt, __, found) => void noted.set(service, found),
      noteFailure: async (_, { service }: ServiceToLookAt, __, nothing) => void failed.set(service, nothing),
      nothing: (at, problem) => ({ ...FOUND, from: at, to: at, rate: null, problem }),
    },
    ((job: ServiceToLookAt, { signal }: { signal: AbortSignal }) =>
      answer(job.service, signal)) as unknown as typeof runJob,
  );
  const result = await pass(undefined as never, 0, () => false);
  return { noted, failed, warned, result };
}

describe("a round of the watch", () => {
  const well = { ok: true, value: FOUND };

  test("one service that cannot be looked at is noted with why, and stops no other", async () => {
    const refused = { ok: false, status: 500, problem: { title: "A fault", detail: "the engine gave up" } };
    const { noted, failed, warned, result } = await oneRound(async (service) => (service === "heavy" ? refused : well));
    expect(failed.get("heavy")?.problem).toBe("the engine gave up");
    expect(noted.has("heavy")).toBe(false);
    expect(noted.get("light")).toEqual(FOUND);
    expect(noted.get("last")).toEqual(FOUND);
    expect(warned).toHaveLength(1);
    expect(result).toEqual({ done: 3, backlog: 0, waitingSince: null });
  });

  test("one that takes too long is given up, and the others have their turn", async () => {
    const timeout = jest.spyOn(AbortSignal, "timeout").mockImplementation(() => AbortSignal.abort());
    const { noted, failed } = await oneRound(async (service, signal) => {
      if (service === "heavy") signal.throwIfAborted();
      return well;
    });
    timeout.mockRestore();
    expect(failed.get("heavy")?.problem).toContain("longer than 60 s");
    expect([...noted.keys()]).toEqual(["light", "last"]);
  });

  test("while the store is away, what was found before stands", async () => {
    const away = { ok: false, status: 503, problem: { title: "Away", detail: "the store did not answer" } };
    const noted: string[] = [];
    const round = oneRound(async (service) => {
      noted.push(service);
      return away;
    });
    await expect(round).rejects.toThrow("the store did not answer");
    expect(noted).toEqual(["heavy"]);
  });
});
