import { fireEvent, screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { open, Refusal } from "../testing/page";
import { ModelForm, NewModelForm } from "./model-form";
import { placed } from "./settings-form";

describe("problems", () => {
  it("stand at their place in the part, several in one", () => {
    const { errors, rest } = placed(
      [
        { where: "models.station.fields.t.unit", what: "`Celsius` is no UCUM code" },
        { where: "models.station.fields.t.unit", what: "and another" },
        { where: "models.station-b.facts", what: "of another" },
        { where: "", what: "of the file" },
      ],
      "models.station",
    );

    expect(errors).toEqual({ "fields.t.unit": "`Celsius` is no UCUM code\nand another" });
    expect(rest).toEqual(["models.station-b.facts: of another", "of the file"]);
  });
});

const text = { type: "string" };
const schema = {
  $defs: {
    codec: { type: "object", properties: {} },
    model: {
      type: "object",
      properties: {
        codec: { $ref: "#/$defs/codec" },
        fields: {
          type: "object",
          additionalProperties: {
            type: "object",
            properties: { label: text, unit: text, min: { type: "number" }, max: { type: "number" } },
            additionalProperties: false,
          },
        },
        silentAfter: text,
      },
      additionalProperties: false,
    },
  },
};

const content = { codec: { script: "stations.js" }, fields: { t: { unit: "Cel" } } };
const part = { thing: "models", name: "station", content, text: null, mark: "m1", revision: 3, drafts: [] };

const answers = {
  "GET /api/v1/setup/schema": schema,
  "GET /api/v1/setup/parts/models/station": part,
  "POST /api/v1/setup/parts/models/station/check": { problems: [], warnings: [] },
  "PUT /api/v1/setup/parts/models/station": { revision: 4 },
};

describe("a model's form", () => {
  it("shows fields with their units, and leaves the codec to its bench", async () => {
    open(<ModelForm name="station" />, answers);

    expect(((await screen.findByLabelText(/^Unit/)) as HTMLInputElement).value).toBe("Cel");
    expect(screen.queryByText("stations.js")).toBeNull();
    expect(screen.getByText("It is active as it stands.")).toBeTruthy();
  });

  it("applies what was changed together with the codec, which stays as it is", async () => {
    let kept = part;
    const page = open(<ModelForm name="station" />, {
      ...answers,
      "GET /api/v1/setup/parts/models/station": () => kept,
      "PUT /api/v1/setup/parts/models/station": ({ body }: { body: { content: typeof content } }) => {
        kept = { ...part, content: body.content, mark: "m2" };
        return { revision: 4 };
      },
    });
    fireEvent.change(await screen.findByLabelText(/^Silent after/), { target: { value: "3h" } });
    const apply = screen.getByRole("button", { name: "Apply" }) as HTMLButtonElement;
    await waitFor(() => expect(apply.disabled).toBe(false));
    fireEvent.click(apply);

    await waitFor(() => expect(page.of("PUT", "/api/v1/setup/parts/models/station")).toHaveLength(1));
    expect(page.of("PUT", "/api/v1/setup/parts/models/station")[0]?.body).toEqual({
      content: { ...content, silentAfter: "3h" },
      basedOn: "m1",
      note: "",
    });
    expect(await screen.findByText("Applied as revision 4.")).toBeTruthy();
  });

  it("says what is wrong beside the field, and does not apply it", async () => {
    open(<ModelForm name="station" />, {
      ...answers,
      "POST /api/v1/setup/parts/models/station/check": {
        problems: [{ where: "models.station.silentAfter", what: "`soon` is no length of time; write 3h" }],
        warnings: [],
      },
    });
    fireEvent.change(await screen.findByLabelText(/^Silent after/), { target: { value: "soon" } });

    expect(await screen.findByText(/is no length of time/)).toBeTruthy();
    expect((screen.getByRole("button", { name: "Apply" }) as HTMLButtonElement).disabled).toBe(true);
  });

  it("tells why a change was refused", async () => {
    open(<ModelForm name="station" />, {
      ...answers,
      "PUT /api/v1/setup/parts/models/station": new Refusal(409, "Somebody changed model station meanwhile."),
    });
    fireEvent.change(await screen.findByLabelText(/^Silent after/), { target: { value: "3h" } });
    const apply = screen.getByRole("button", { name: "Apply" }) as HTMLButtonElement;
    await waitFor(() => expect(apply.disabled).toBe(false));
    fireEvent.click(apply);

    expect(await screen.findByText("Somebody changed model station meanwhile.")).toBeTruthy();
  });
});

describe("a new model's form", () => {
  it("makes a model without a codec, once it has a name that fits", async () => {
    const made = vi.fn();
    const page = open(<NewModelForm onMade={made} />, {
      ...answers,
      "POST /api/v1/setup/parts/models/old-meter/check": { problems: [], warnings: [] },
      "PUT /api/v1/setup/parts/models/old-meter": { revision: 5 },
    });
    fireEvent.change(await screen.findByLabelText("Name"), { target: { value: "Old meter" } });
    expect(await screen.findByText(/Lower-case letters, digits and dashes/)).toBeTruthy();
    expect(page.calls.filter((call) => call.path.endsWith("/check"))).toHaveLength(0);

    fireEvent.change(screen.getByLabelText("Name"), { target: { value: "old-meter" } });
    fireEvent.change(screen.getByLabelText(/^Silent after/), { target: { value: "1d" } });
    const apply = screen.getByRole("button", { name: "Apply" }) as HTMLButtonElement;
    await waitFor(() => expect(apply.disabled).toBe(false));
    fireEvent.click(apply);

    await waitFor(() => expect(made).toHaveBeenCalledWith("old-meter", 5));
    expect(page.of("PUT", "/api/v1/setup/parts/models/old-meter")[0]?.body).toEqual({
      content: { silentAfter: "1d" },
      basedOn: "",
      note: "",
    });
  });
});
