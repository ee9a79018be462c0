import { expect, test } from "vitest";
import { answers } from "../testing/answers";

test("the way on is a button with a name", () => {
  expect(answers.lot).toMatch(/^HB-\d{6}$/);
});
