import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { expect, it } from "vitest";
import { open, Refusal } from "../testing/page";
import { AccessPage } from "./access";

const bearer = {
  form: "bearer",
  about: "A token in the Authorization header.",
  canBeMade: true,
  schema: { required: ["token"], properties: { token: { title: "Token", writeOnly: true } } },
};
const basic = {
  form: "basic",
  about: "A name and a password.",
  canBeMade: false,
  schema: {
    required: ["user", "password"],
    properties: { user: { title: "Name" }, password: { title: "Password", writeOnly: true } },
  },
};

const answers = {
  "GET /api/v1/credentials": [
    {
      name: "desk",
      form: "bearer",
      changed: "2026-04-12T03:00:00Z",
      changedBy: "admin",
      expires: null,
      token: null,
    },
  ],
  "GET /api/v1/credentials/forms": [bearer, basic],
  "GET /api/v1/keys": [
    { name: "reports", created: "2026-04-12T03:00:00Z", createdBy: "admin", lastUsed: null },
  ],
  "POST /api/v1/keys/importer": { name: "importer", key: "hk-made-up" },
  "PUT /api/v1/credentials/mail": { notices: ["The token begins with its scheme word; it was taken off."] },
};

it("never asks for a secret in clear", async () => {
  open(<AccessPage />, answers);

  expect(((await screen.findByLabelText("Token")) as HTMLInputElement).type).toBe("password");
});

it("saves a credential only once all its fields are filled in", async () => {
  open(<AccessPage />, answers);
  await screen.findByLabelText("Token");
  const save = screen.getByRole("button", { name: "Save credential" }) as HTMLButtonElement;
  expect(save.disabled).toBe(true);

  fireEvent.change(screen.getByLabelText("Name of the credential"), { target: { value: "mail" } });
  expect(save.disabled).toBe(true);
  fireEvent.change(screen.getByLabelText("Token"), { target: { value: "made-up-token" } });

  expect(save.disabled).toBe(false);
});

it("shows a new API key once, and says so", async () => {
  open(<AccessPage />, answers);
  fireEvent.change(await screen.findByLabelText("Name of the new key"), { target: { value: "importer" } });
  fireEvent.click(screen.getByRole("button", { name: "Create key" }));

  expect(await screen.findByText("hk-made-up")).toBeTruthy();
  expect(screen.getByText(/it is never shown again/)).toBeTruthy();
});

it("says that a key was never used", async () => {
  open(<AccessPage />, answers);

  const row = (await screen.findByText("reports")).closest("tr") as HTMLElement;
  expect(within(row).getByText("never")).toBeTruthy();
});

it("asks before a credential is removed, and tells why that was refused", async () => {
  const page = open(<AccessPage />, {
    ...answers,
    "DELETE /api/v1/credentials/desk": new Refusal(409, "Outlet works-desk uses credential desk."),
  });
  const row = (await screen.findByText("desk")).closest("tr") as HTMLElement;
  fireEvent.click(within(row).getByRole("button", { name: "Remove" }));
  expect(page.of("DELETE", "/api/v1/credentials/desk")).toHaveLength(0);

  const asked = await screen.findByRole("alertdialog");
  expect(asked.textContent).toContain("Remove credential desk?");
  fireEvent.click(within(asked).getByRole("button", { name: "Remove" }));

  expect((await screen.findByRole("alert")).textContent).toBe("Outlet works-desk uses credential desk.");
});

it("replaces a secret under the same name", async () => {
  open(<AccessPage />, answers);
  fireEvent.click(await screen.findByRole("button", { name: "Replace" }));

  expect(await screen.findByText("Replace the secret of desk")).toBeTruthy();
  const name = screen.getByLabelText("Name of the credential") as HTMLInputElement;
  expect(name.value).toBe("desk");
  expect(name.disabled).toBe(true);
});

it("says what to do where there is neither credential nor key", async () => {
  open(<AccessPage />, { ...answers, "GET /api/v1/credentials": [], "GET /api/v1/keys": [] });

  expect(await screen.findByText("No credentials yet")).toBeTruthy();
  await waitFor(() => expect(screen.getByText("No API keys yet")).toBeTruthy());
});

it("says how a credential's token stands and makes a link for an owner", async () => {
  const grant = {
    name: "ashcombe-desk",
    form: "grant",
    changed: "2026-04-12T03:00:00Z",
    changedBy: "admin",
    expires: null,
  };
  const { of } = open(<AccessPage />, {
    ...answers,
    "GET /api/v1/credentials": [
      {
        ...grant,
        token: {
          scope: "orders",
          expires: null,
          refreshed: null,
          failure: "revoked",
          reason: "the grant was revoked",
        },
      },
      { ...grant, name: "birkholt-desk", token: null },
    ],
    "POST /api/v1/credentials/ashcombe-desk/link": {
      address: "http://holtra.example/grants/made-up",
      until: "2026-04-19T03:00:00Z",
    },
  });

  expect(await screen.findByText("the grant was revoked")).toBeTruthy();
  expect(screen.getByText("not consented")).toBeTruthy();
  fireEvent.click(screen.getAllByText("Make link")[0] as HTMLElement);
  const link = (await screen.findByLabelText("Link")) as HTMLInputElement;
  expect(link.value).toBe("http://holtra.example/grants/made-up");
  expect(of("POST", "/api/v1/credentials/ashcombe-desk/link").length).toBe(1);
});
