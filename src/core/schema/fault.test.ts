import { z } from "zod";
import { faultText } from "./fault";

test("what schemas find wrong is said in words", () => {
  const said = (schema: z.ZodType, value: unknown) => faultText(schema.safeParse(value).error!.issues[0].message);
  expect(said(z.number(), Number.NaN)).toBe("a number is expected");
  expect(said(z.number(), "x")).toBe("a number is expected");
  expect(said(z.int(), 1.5)).toBe("a whole number is expected");
  expect(said(z.string(), undefined)).toBe("is missing; a text is expected");
  expect(said(z.array(z.string()), {})).toBe("a list is expected");
  expect(said(z.object({}), [])).toBe("an object is expected");
  expect(said(z.boolean(), 1)).toBe("true or false is expected");
  expect(said(z.number().min(1), 0)).toBe("it has to be at least 1");
  expect(said(z.number().positive(), 0)).toBe("it has to be more than 0");
  expect(said(z.number().max(0.5), 1)).toBe("it has to be at most 0.5");
  expect(said(z.string().max(3), "long")).toBe("it has to have at most 3 characters");
  expect(said(z.array(z.number()).min(2), [1])).toBe("it has to have at least 2 items");
  expect(said(z.string().min(1, "say what it means"), "")).toBe("say what it means");
});
