import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "wouter";
import { api, type Device, withQuery } from "../api";
import { inOrder } from "../device-fields";
import { Button } from "../ui/button";
import { Choice } from "../ui/choice";
import { Mark } from "../ui/mark";
import { Empty, Loading, Panel } from "../ui/panel";
import { Plot } from "../ui/plot";
import { Time } from "../ui/time";
import { count, plural, unitWord } from "../words";

const SPANS: Record<string, number> = { "1 h": 3600, "6 h": 21_600, "1 day": 86_400, "7 days": 604_800 };

const from = (seconds: number) => new Date(Date.now() - seconds * 1000).toISOString();

export function History({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const fields = Object.keys(models.data?.find((model) => model.name === device.model)?.fields ?? {});
  const numeric = inOrder(device, fields)
    .filter(([, value]) => typeof value.value === "number")
    .map(([name]) => name);
  const [chosen, setChosen] = useState("");
  const [span, setSpan] = useState("1 h");
  const name = chosen !== "" && numeric.includes(chosen) ? chosen : (numeric[0] ?? "");
  const series = useQuery({
    queryKey: ["device", device.key, "series", name, span],
    queryFn: () => api.series(device.key, name, from(SPANS[span] ?? 3600)),
    enabled: name !== "",
    placeholderData: (before) => before,
  });
  return (
    <Panel
      title={
        name === ""
          ? "Over time"
          : `${name} over time${series.data?.unit ? `, ${unitWord(series.data.unit)}` : ""}`
      }
      aside={
        <>
          <Choice label="field" value={name} options={numeric} onChange={setChosen} />
          <Choice
            label="span"
            value={span}
            options={Object.keys(SPANS)}
            onChange={(next) => setSpan(next || "1 h")}
          />
        </>
      }
    >
      <div className="px-2 py-2">
        {series.data && series.data.points.length > 0 ? (
          <Plot series={series.data} silentAfter={device.silentAfterSeconds} />
        ) : series.isLoading ? (
          <Loading />
        ) : (
          <Empty title="Nothing to plot">No numeric field was received in this time range.</Empty>
        )}
      </div>
    </Panel>
  );
}

/** The lanes that serve it, and a way into one that lists its devices by hand. */
export function Lanes({ device }: { device: Device }) {
  const client = useQueryClient();
  const lanes = useQuery({
    queryKey: ["device", device.key, "lanes"],
    queryFn: () => api.deviceLanes(device.key),
  });
  const add = useMutation({
    mutationFn: async (lane: string) => {
      const part = await api.part("lanes", lane);
      const content = part.content ?? {};
      const only = ((content.devices as { only?: string[] } | undefined)?.only ?? []).concat(device.key);
      return api.adoptPart("lanes", lane, {
        content: { ...content, devices: { ...(content.devices as object), only } },
        basedOn: part.mark,
        note: `${device.key} added to lane ${lane}`,
      });
    },
    onSuccess: () => client.invalidateQueries(),
  });
  const rows = useQuery({ queryKey: ["lanes"], queryFn: api.lanes });
  const recent = useQuery({
    queryKey: ["device", device.key, "inlets"],
    queryFn: async () =>
      (await api.messages({ device: device.key, limit: 20 })).messages.map((one) => one.inlet),
  });
  // Lanes of inlets it never came by would only be noise.
  const near = (lane: string) => {
    const inlets = rows.data?.find((row) => row.lane === lane)?.inlets ?? [];
    return (recent.data ?? []).length === 0 || inlets.some((inlet) => recent.data?.includes(inlet));
  };
  const list = (lanes.data ?? []).filter((one) => near(one.lane));
  const serving = list.filter((one) => one.serves);
  const open = list.filter((one) => !one.serves && one.handPicked);
  return (
    <Panel title={`Served by ${plural(serving.length, "lane", "lanes")}`} aside="if they pick what it sends">
      <ul className="px-4 py-2 text-[13px]">
        {serving.map((one) => (
          <li key={one.lane} className="flex items-center gap-2 py-0.5">
            <Link href={`/lanes/${one.lane}`} className="text-accent underline underline-offset-2">
              {one.lane}
            </Link>
            {one.handPicked && <span className="text-ink-soft">hand-picked</span>}
            {one.state === "closed" && <Mark state="closed" />}
          </li>
        ))}
        {list
          .filter((one) => !one.serves)
          .map((one) => (
            <li key={one.lane} className="flex flex-wrap items-center gap-2 py-0.5 text-ink-soft">
              <Link href={`/lanes/${one.lane}`} className="underline underline-offset-2">
                {one.lane}
              </Link>
              <span>not: {one.whyNot}</span>
              {open.includes(one) && (
                <Button
                  className="h-6! px-2! text-[12px]!"
                  disabled={add.isPending}
                  onClick={() => add.mutate(one.lane)}
                >
                  Add it to {one.lane}
                </Button>
              )}
            </li>
          ))}
      </ul>
      {add.isError && <p className="px-4 pb-2 text-[13px] text-bad">{add.error.message}</p>}
      {lanes.data && list.length === 0 && <p className="px-4 pb-3 text-ink-soft">There are no lanes yet.</p>}
    </Panel>
  );
}

export function Gaps({ device }: { device: Device }) {
  const gaps = useQuery({
    queryKey: ["device", device.key, "gaps"],
    queryFn: () => api.gaps(device.key, from(86_400)),
  });
  const list = gaps.data ?? [];
  return (
    <Panel
      title="Gaps"
      aside={`${plural(device.missing, "message", "messages")} by its own numbers, ${plural(device.restarts, "restart", "restarts")}`}
    >
      {list.length === 0 ? (
        <p className="px-4 py-3 text-ink-soft">Its numbers followed one another for the last day.</p>
      ) : (
        <ul className="max-h-48 overflow-auto">
          {list.map((gap) => (
            <li key={gap.message} className="border-b border-rule px-4 py-1 text-[13px] last:border-0">
              <Link href={`/messages/${gap.message}`} className="underline underline-offset-2">
                <Time instant={gap.at} />
              </Link>{" "}
              {gap.missing > 0
                ? `${plural(gap.missing, "number is", "numbers are")} missing: ${gap.before} was followed by ${gap.after}`
                : `its numbers began anew: ${gap.before} was followed by ${gap.after}`}
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}

export function Recent({ device }: { device: Device }) {
  const messages = useQuery({
    queryKey: ["device", device.key, "messages"],
    queryFn: () => api.messages({ device: device.key, limit: 12 }),
  });
  const list = messages.data?.messages ?? [];
  return (
    <Panel
      title="Recent messages"
      aside={
        <Link
          href={withQuery("/messages", { device: device.key })}
          className="text-accent underline underline-offset-2"
        >
          all {count(device.messages)}
        </Link>
      }
    >
      {list.length === 0 ? (
        <Empty title="No messages yet" />
      ) : (
        <ul>
          {list.map((message) => (
            <li
              key={message.id}
              className="flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-rule px-4 py-1.5 last:border-0"
            >
              <Link href={`/messages/${message.id}`} className="text-accent underline underline-offset-2">
                <Time instant={message.received} />
              </Link>
              <span className="text-[13px] text-ink-soft">{message.type}</span>
              <span className="ml-auto flex flex-wrap gap-1.5">
                {message.state !== "read" && (
                  <Mark
                    state={message.state}
                    label={message.state === "duplicate" ? "duplicate" : undefined}
                    title={message.reason ?? undefined}
                  />
                )}
                {message.state === "read" && message.lanes.length === 0 && <Mark state="unrouted" />}
                {message.lanes.map((lane) => (
                  <Mark key={lane.lane} state={lane.state} label={lane.lane} title={lane.state} />
                ))}
              </span>
            </li>
          ))}
        </ul>
      )}
    </Panel>
  );
}
