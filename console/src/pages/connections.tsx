import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation } from "wouter";
import { api, type SharedConnection } from "../api";
import { Check } from "../parts/check";
import { Connected, Diary } from "../parts/diary";
import { LookAround } from "../parts/look-around";
import { acceptSettings, PartForm, pageOf } from "../parts/part-form";
import { Remove } from "../parts/remove";
import { Button } from "../ui/button";
import { Code } from "../ui/code";
import { Mark } from "../ui/mark";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { plural } from "../words";

const NEW = "new";

/** What several inlets and outlets share, such as a broker: its address and credential are said here, once. */
export function ConnectionsPage({ name }: { name?: string }) {
  const all = useQuery({ queryKey: ["connections"], queryFn: api.connections, refetchInterval: 3000 });
  const [, go] = useLocation();
  if (all.isError && !all.data) return <Failure error={all.error} />;
  if (!all.data) return <Loading />;
  const fresh = name === NEW || all.data.length === 0;
  const chosen = fresh ? undefined : (all.data.find((one) => one.name === name) ?? all.data[0]);
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,4fr)_minmax(0,9fr)]">
      <Panel
        title={plural(all.data.length, "connection", "connections")}
        aside={
          <Button look="main" onClick={() => go("/connections/new")}>
            New connection
          </Button>
        }
      >
        {all.data.length === 0 && (
          <Empty title="No connections yet">
            A broker is entered here once, with its credential. Inlets and outlets then name it.
          </Empty>
        )}
        <ul>
          {all.data.map((one) => (
            <li key={one.name} className="border-b border-rule last:border-0">
              <Link
                href={pageOf("connections", one.name)}
                aria-current={one === chosen ? "true" : undefined}
                className={`block w-full px-4 py-2 text-left ${one === chosen ? "bg-accent-wash" : "hover:bg-inset"}`}
              >
                <span className="font-semibold">{one.name}</span>{" "}
                {one.status && <Mark state={one.status.state} />}
                <span className="float-right text-ink-soft">{one.kind}</span>
                <br />
                <span className="font-mono text-[12px] text-ink-soft">{one.address}</span>
              </Link>
            </li>
          ))}
        </ul>
      </Panel>
      {chosen ? <One key={chosen.name} connection={chosen} /> : <Fresh />}
    </div>
  );
}

function Fresh() {
  const kinds = useQuery({ queryKey: ["kinds"], queryFn: api.kinds, staleTime: Number.POSITIVE_INFINITY });
  const [chosen, setKind] = useState("");
  const [, go] = useLocation();
  const fit = (kinds.data ?? []).filter((one) => one.connection !== null);
  const kind = chosen || (fit.length === 1 ? fit[0]?.name : "");
  if (!kinds.data) return <Loading />;
  if (!kind)
    return (
      <Panel title="New connection">
        <div className="flex flex-wrap gap-2 px-4 py-3">
          {fit.map((one) => (
            <Button key={one.name} title={one.connection?.description} onClick={() => setKind(one.name)}>
              {one.connection?.title ?? one.name}
            </Button>
          ))}
        </div>
      </Panel>
    );
  return (
    <PartForm
      thing="connections"
      name=""
      start={{ kind, to: {} }}
      onAdopted={(made) => go(pageOf("connections", made))}
    />
  );
}

function Users({ of, names }: { of: "inlets" | "outlets"; names: string[] }) {
  return names.map((name) => (
    <Link key={`${of}${name}`} href={pageOf(of, name)} className="text-accent underline underline-offset-2">
      {of.slice(0, -1)} {name}
    </Link>
  ));
}

function One({ connection }: { connection: SharedConnection }) {
  const [applied, setApplied] = useState<number>();
  const [looking, setLooking] = useState(false);
  const [chosen, setChosen] = useState<string[]>([]);
  const [, go] = useLocation();
  const part = useQuery({
    queryKey: ["part", "connections", connection.name],
    queryFn: () => api.part("connections", connection.name),
  });
  const used = connection.inlets.length + connection.outlets.length > 0;
  return (
    <div className="space-y-4">
      <Panel
        title={connection.name}
        aside={<Remove thing="connections" name={connection.name} onDone={() => go("/connections")} />}
      >
        <div className="space-y-3 px-4 py-3">
          <Code label="Address" text={connection.address} />
          {connection.status && <Connected status={connection.status} />}
          <p className="flex flex-wrap items-center gap-2 text-[13px]">
            <span className="text-ink-soft">Used by:</span>
            {used ? (
              <>
                <Users of="inlets" names={connection.inlets} />
                <Users of="outlets" names={connection.outlets} />
              </>
            ) : (
              "nothing yet; make an inlet or outlet that names it"
            )}
          </p>
          <Check
            of="connections"
            name={connection.name}
            onAccept={(settings) => acceptSettings("connections", connection.name, settings)}
          />
          {looking ? (
            <LookAround
              connection={connection.name}
              chosen={chosen}
              onChange={setChosen}
              onClose={() => setLooking(false)}
            />
          ) : (
            <Button onClick={() => setLooking(true)}>Look around</Button>
          )}
          {chosen.length > 0 && (
            <div className="text-[13px]">
              <p className="mb-1 text-ink-soft">For the topics of an inlet:</p>
              <Code label="Topics" text={chosen.join("\n")} />
            </div>
          )}
        </div>
      </Panel>
      {part.data?.content && (
        <PartForm
          key={part.data.mark}
          thing="connections"
          name={connection.name}
          part={part.data}
          start={part.data.content}
          applied={applied}
          onAdopted={(_, revision) => {
            setApplied(revision);
            part.refetch();
          }}
        />
      )}
      <Diary of="connections" name={connection.name} />
    </div>
  );
}
