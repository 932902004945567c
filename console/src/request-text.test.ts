import { expect, it } from "vitest";
import { requestText } from "./request-text";

it("a request is its summary, its fields and its content", () => {
  expect(requestText("POST https://desk.example/orders", { Host: "desk.example" }, '{"a":1}')).toBe(
    'POST https://desk.example/orders\nHost: desk.example\n\n{"a":1}',
  );
});

it("a request without fields has no line for them", () => {
  expect(requestText("append readings.csv", {}, "a,1")).toBe("append readings.csv\n\na,1");
});
