import { fireEvent, screen, waitFor } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { SignInPage } from "./sign-in";

const fill = (name: string, password: string) => {
  fireEvent.change(screen.getByLabelText("Name"), { target: { value: name } });
  fireEvent.change(screen.getByLabelText("Password"), { target: { value: password } });
  fireEvent.click(screen.getByRole("button", { name: "Sign in" }));
};

it("asks for a session first, whose token goes with the password", async () => {
  const page = open(<SignInPage />, {
    "GET /api/v1/session": { name: null },
    "POST /api/v1/session": { name: "admin" },
  });
  fill("admin", "made-up-password");

  await waitFor(() => expect(page.calls.map((call) => call.method)).toEqual(["GET", "POST"]));
  expect(page.of("POST", "/api/v1/session")[0]?.body).toEqual({
    name: "admin",
    password: "made-up-password",
  });
});

it("tells why somebody was not let in, beside the password", async () => {
  open(<SignInPage />, {
    "GET /api/v1/session": { name: null },
    "POST /api/v1/session": new Refusal(401, "Name and password do not fit."),
  });
  fill("admin", "another");

  await waitFor(() => expect(screen.getByRole("alert").textContent).toBe("Name and password do not fit."));
  expect(screen.getByLabelText("Password").getAttribute("aria-invalid")).toBe("true");
});
