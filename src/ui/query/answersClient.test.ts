import { QueryObserver } from "@tanstack/react-query";
import { AnswersClient, every } from "./answersClient";
import { ApiProblem } from "./api";

describe("what a change makes old", () => {
  test("is also an answer that is on its way for the first time", async () => {
    const client = new AnswersClient();
    const answers: ((value: string) => void)[] = [];
    const seen: unknown[] = [];
    const observer = new QueryObserver(client, {
      queryKey: ["list"],
      queryFn: () => new Promise<string>((resolve) => answers.push(resolve)),
    });
    const leave = observer.subscribe(({ data, status }) => seen.push(data ?? status));
    expect(answers).toHaveLength(1);
    const changed = client.invalidateQueries({ queryKey: ["list"] });
    await new Promise((resolve) => setTimeout(resolve, 0));
    // The first was made before the change, and comes after it.
    answers[0]("before");
    expect(answers).toHaveLength(2);
    answers[1]("after");
    await changed;
    expect(client.getQueryData(["list"])).toBe("after");
    expect(seen).not.toContain("before");
    expect(seen).not.toContain("error");
    leave();
    client.clear();
  });

  test("an answer of something else is awaited as before", async () => {
    const client = new AnswersClient();
    let asked = 0;
    const own = client.fetchQuery({ queryKey: ["other"], queryFn: async () => ++asked });
    await client.invalidateQueries({ queryKey: ["list"] });
    expect(await own).toBe(1);
    expect(asked).toBe(1);
    client.clear();
  });

  test("who awaits an answer by itself gets it", async () => {
    const client = new AnswersClient();
    let answer = (_: string) => {};
    const own = client.fetchQuery({
      queryKey: ["list", "part"],
      queryFn: () => new Promise<string>((resolve) => (answer = resolve)),
    });
    await client.invalidateQueries({ queryKey: ["list"] });
    answer("came");
    expect(await own).toBe("came");
    client.clear();
  });
});

test("what failed is asked again soon, what was refused is not", () => {
  const after = (error: Error | null, usual: number | false) =>
    every(usual)({ state: { status: error === null ? "success" : "error", error } });
  const refused = new ApiProblem({ title: "", detail: "" }, 404);
  expect([after(null, 30_000), after(new Error(), 30_000), after(refused, 30_000)]).toEqual([30_000, 4000, 30_000]);
  expect([after(null, false), after(new Error(), false), after(refused, false)]).toEqual([false, 4000, false]);
  expect(after(new Error(), 1500)).toBe(1500);
});
