import { reasonOf } from "./intake";
import { asBearer } from "./key";
import { UserError } from "./userError";

/** Tin Ladder's pages, asked with a key. */
export class Pages {
  constructor(
    private readonly base: string,
    private readonly key: string,
  ) {}

  /** @returns null where there is nothing of that name @throws UserError */
  async ask<T>(method: string, place: string, body?: unknown): Promise<T | null> {
    const response = await fetch(`${this.base.replace(/\/+$/, "")}/api/${place}`, {
      method,
      headers: { "Content-Type": "application/json", ...asBearer(this.key) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    }).catch((error: Error) => {
      throw new UserError(`${this.base} does not answer: ${reasonOf(error)}`);
    });
    if (response.status === 404) return null;
    if (!response.ok) {
      const said = (await response.json().catch(() => ({}))) as { detail?: string };
      throw new UserError(`${this.base} answered ${response.status}: ${said.detail ?? "it is not Tin Ladder"}`);
    }
    return (await response.json()) as T;
  }
}
