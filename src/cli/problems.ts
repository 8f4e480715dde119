import { say } from "./userError";

const MAX_SHOWN = 50;

/** What is wrong with single lines: told as it is met, and counted. */
export class Problems {
  count = 0;

  /** @param place such as `line 7` */
  add(place: string, message: string): void {
    this.count++;
    if (this.count <= MAX_SHOWN) say(`${place}: ${message}`);
    else if (this.count === MAX_SHOWN + 1) say("more lines are wrong; they are only counted from here on");
  }
}

/** What an import did. */
export interface Imported {
  points: number;
  refused: number;
}
