import { RequestError } from "./receive/body";

/** Questions to a thread of this process, each with its answer or a time limit. */
export class WorkerRpc<Question, Answer> {
  private next = 1;
  private readonly open = new Map<number, (answer: Answer | null) => void>();

  /** @param say gives a question to the thread; false where there is none */
  constructor(private readonly say: (number: number, question: Question) => boolean) {}

  heard(number: number, answer: Answer | null): void {
    this.open.get(number)?.(answer);
    this.open.delete(number);
  }

  /** @param ms how long it may take @throws RequestError where there is no answer */
  ask(question: Question, ms: number): Promise<Answer> {
    const number = this.next++;
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.open.delete(number);
        reject(new RequestError(503, "it took too long", 14));
      }, ms);
      this.open.set(number, (answer) => {
        clearTimeout(timer);
        if (answer === null) reject(new RequestError(503, "it failed; the intake's log says why", 14));
        else resolve(answer);
      });
      if (!this.say(number, question)) this.heard(number, null);
    });
  }
}
