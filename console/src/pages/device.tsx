import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useLocation } from "wouter";
import { api, type Device, Problem } from "../api";
import { fieldOf, inOrder } from "../device-fields";
import { useLive } from "../live";
import { Channels } from "../parts/device-channels";
import { Gaps, History, Lanes, Recent } from "../parts/device-history";
import { Earlier, Known, Points } from "../parts/device-knowledge";
import { Button } from "../ui/button";
import { Confirm } from "../ui/confirm";
import { Mark, Simulated } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since, Time } from "../ui/time";
import { figure, length, plural, unitWord } from "../words";

export function DevicePage({ device: key }: { device: string }) {
  const client = useQueryClient();
  const device = useQuery({ queryKey: ["device", key], queryFn: () => api.device(key) });
  useLive({
    message: (message) => {
      if (message.device === key) client.invalidateQueries({ queryKey: ["device", key] });
    },
    refresh: () => client.invalidateQueries({ queryKey: ["device", key] }),
  });
  if (device.isError) {
    return device.error instanceof Problem && device.error.status === 404 ? (
      <Panel>
        <Empty title={`There is no device ${key}.`}>
          It may have been forgotten.{" "}
          <Link href="/devices" className="underline">
            All devices
          </Link>
        </Empty>
      </Panel>
    ) : (
      <Failure error={device.error} />
    );
  }
  if (!device.data) return <Loading />;
  return (
    <div className="space-y-4">
      <Head device={device.data} />
      <Channels device={device.data} />
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,7fr)]">
        <div className="space-y-4">
          <Values device={device.data} />
          <Known key={device.data.revision} device={device.data} />
          <Points device={device.data} />
          <Earlier device={device.data} />
        </div>
        <div className="space-y-4">
          <History device={device.data} />
          <Lanes device={device.data} />
          <Gaps device={device.data} />
          <Recent device={device.data} />
        </div>
      </div>
    </div>
  );
}

function Head({ device }: { device: Device }) {
  const client = useQueryClient();
  const [, go] = useLocation();
  const again = () => client.invalidateQueries({ queryKey: ["device", device.key] });
  const bar = async () => {
    await api.bar(device.key, device.state !== "barred");
    again();
  };
  const forget = async () => {
    await api.forget(device.key);
    go("/devices");
  };
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
      <h1 className="font-mono text-[18px] font-medium">{device.key}</h1>
      <Mark state={device.state} />
      {device.simulated && <Simulated />}
      <span className="ml-auto inline-flex items-center gap-2">
        <Link
          href={`/incidents?device=${encodeURIComponent(device.key)}`}
          className="text-[13px] text-accent underline underline-offset-2"
        >
          Mark an incident
        </Link>
        <Button onClick={bar}>{device.state === "barred" ? "Unbar" : "Bar"}</Button>
        <Confirm
          trigger={<Button look="danger">Forget</Button>}
          title={`Forget ${device.key}?`}
          action="Forget"
          onConfirm={forget}
        >
          What is known of it leaves the registry. Its messages stay, and it comes back when it is heard by an
          inlet that admits unknown devices.
        </Confirm>
      </span>
      <p className="w-full text-ink-soft">
        {device.model ?? "no model"},{" "}
        {device.lastHeard === null ? (
          "never heard yet"
        ) : (
          <>
            heard <Since instant={device.lastHeard} />, {plural(device.messages, "message", "messages")}
          </>
        )}
        {device.silentAfterSeconds !== null &&
          `, called silent after ${length(device.silentAfterSeconds * 1000)}`}
        {device.state === "barred" && ". Its messages are kept, and no lane takes them."}
      </p>
    </div>
  );
}

function Values({ device }: { device: Device }) {
  const models = useQuery({ queryKey: ["models"], queryFn: api.models });
  const described = models.data?.find((model) => model.name === device.model)?.fields ?? {};
  const wired = Object.fromEntries(device.channels.map((one) => [fieldOf(one), one]));
  const fields: Record<string, { label: string | null; unit: string | null }> = { ...described, ...wired };
  const values = inOrder(device, Object.keys(fields));
  return (
    <Panel title="Last known values">
      {values.length === 0 ? (
        <Empty title="No reading yet" />
      ) : (
        <table className="w-full border-collapse">
          <tbody>
            {values.map(([name, value]) => (
              <tr key={name} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1">
                <td title={name}>{fields[name]?.label ?? name}</td>
                <td className="text-right font-medium">
                  {typeof value.value === "number" ? figure(value.value) : String(value.value)}
                  {fields[name]?.unit && (
                    <span className="ml-1 font-normal text-ink-soft">{unitWord(fields[name].unit)}</span>
                  )}
                </td>
                <td className="text-right text-ink-soft">
                  <Time instant={value.at} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <Ways device={device} />
    </Panel>
  );
}

/** By which gateway it last came; a gateway's position is not the device's. */
function Ways({ device }: { device: Device }) {
  const { gateway, gatewayLatitude, gatewayLongitude, ...more } = device.gateway;
  if (gateway === undefined && Object.keys(more).length === 0) return null;
  const details = Object.entries(more).map(([name, value]) => `${name} ${value}`);
  return (
    <p className="border-t border-rule px-4 py-2 text-[13px] text-ink-soft">
      Last came by gateway {gateway ?? "unnamed"}
      {gatewayLatitude !== undefined && `, which stands at ${gatewayLatitude}, ${gatewayLongitude}`}
      {details.length > 0 && ` (${details.join(", ")})`}
    </p>
  );
}
