import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useLocation } from "wouter";
import { stringify } from "yaml";
import {
  api,
  type Draft,
  type Fields,
  type Part,
  Problem,
  type SetupProblem,
  type Tried,
  type Trying,
} from "../api";
import { same, useDraft } from "../parts/draft";
import { Remove } from "../parts/remove";
import { Switch } from "../parts/switch";
import { WaitingSheet, waitingOf } from "../parts/waiting";
import { Button } from "../ui/button";
import { useStill } from "../ui/debounced";
import { Sheet } from "../ui/dialog";
import { Difference } from "../ui/difference";
import { Field } from "../ui/field";
import { Mark } from "../ui/mark";
import { Failure, Loading } from "../ui/panel";
import { Since } from "../ui/time";
import { LaneForm } from "../workbench/lane-form";
import { MemoryPanel } from "../workbench/memory";
import { RehearsalPanel } from "../workbench/rehearsal";
import { ResultPanel } from "../workbench/result";
import { recentOf, type Subject, SubjectPanel } from "../workbench/subject";

/** A lane's workbench: a message on one side, the lane in the middle, the exact result on the other. */
export function LanePage({ name }: { name: string }) {
  const part = useQuery({
    queryKey: ["part", "lanes", name],
    queryFn: () => api.part("lanes", name),
    refetchInterval: 5000,
  });
  if (part.isError && !part.data) return <Failure error={part.error} />;
  if (!part.data) return <Loading />;
  return <Workbench key={name} part={part.data} />;
}

function Workbench({ part }: { part: Part }) {
  const { name } = part;
  const client = useQueryClient();
  const [, go] = useLocation();
  const mine = part.drafts.find((draft) => draft.mine);
  const others = part.drafts.filter((draft) => !draft.mine);
  const [lane, setLane] = useState<Fields>(() => mine?.content ?? part.content ?? starting());
  const [basedOn, setBasedOn] = useState(mine?.basedOn ?? part.mark);
  const [subject, setSubject] = useState<Subject>(() => ({
    way: "stored",
    id: new URLSearchParams(window.location.search).get("message") ?? "",
    pasted: { inlet: "", body: "", contentType: "application/json" },
    facts: {},
  }));
  const overtaken = part.content !== null && basedOn !== part.mark;
  const draft = useDraft("lanes", part, lane, basedOn);
  const { still, changed } = draft;

  const inlets = (lane.inlets as string[] | undefined) ?? [];
  const first = useQuery({
    queryKey: ["workbench", "first", inlets],
    queryFn: async () => {
      // One that the lane takes tells most; else whatever came last.
      const hits = part.content === null ? null : await api.hits(name, lane);
      return hits?.hits?.example ?? (await recentOf(inlets))[0]?.id ?? "";
    },
    enabled: inlets.length > 0 && subject.id === "",
  });
  const newest = first.data ?? "";
  useEffect(() => {
    if (subject.id === "" && newest !== "") setSubject((before) => ({ ...before, id: newest }));
  }, [newest, subject.id]);

  const trying: Trying | null =
    subject.way === "stored"
      ? subject.id === ""
        ? null
        : { lane, message: subject.id, facts: subject.facts }
      : {
          lane,
          pasted: { ...subject.pasted, inlet: subject.pasted.inlet || (inlets[0] ?? "") },
          facts: subject.facts,
        };
  const asked = useStill(JSON.stringify(trying));
  const tried = useQuery({
    queryKey: ["workbench", "try", name, asked],
    queryFn: () => api.tryLane(name, JSON.parse(asked)),
    enabled: asked !== "null",
    placeholderData: (before) => before,
    retry: false,
    staleTime: 5000,
  });
  // While the lane has an error, the message stays in sight.
  const lastGood = useRef<Tried>(undefined);
  if (tried.data?.subject) lastGood.current = tried.data;
  const shown =
    tried.data && tried.data.problems.length > 0
      ? { ...tried.data, subject: lastGood.current?.subject ?? null }
      : tried.data;
  const check = useQuery({
    queryKey: ["workbench", "check", name, JSON.stringify(still)],
    queryFn: () => api.checkPart("lanes", name, still),
    placeholderData: (before) => before,
    retry: false,
  });
  const problems: SetupProblem[] = (check.data?.problems ?? []).filter((problem) =>
    problem.where.startsWith(`lanes.${name}`),
  );
  const good = check.data !== undefined && check.data.problems.length === 0 && same(still, lane);

  const back = async () => {
    await api.discardDraft("lanes", name);
    if (part.content === null) {
      go("/lanes");
      return;
    }
    setLane(part.content);
    setBasedOn(part.mark);
    await client.invalidateQueries({ queryKey: ["part"] });
  };
  return (
    <div className="space-y-4">
      <div className="flex flex-wrap items-center gap-3">
        <Link href="/lanes" className="text-[13px] text-accent underline underline-offset-2">
          Lanes
        </Link>
        <h1 className="text-[18px] font-semibold">{name}</h1>
        {part.content === null ? (
          <Mark state="trial" label="new, not applied" />
        ) : (
          <Mark state={part.content.state === "closed" ? "closed" : "open"} />
        )}
        {changed && part.content !== null && <Mark state="changed" label="changed, not applied" />}
        <span className="text-[13px] text-ink-soft" role="status">
          {draft.error ? (
            <span className="text-bad">{draft.error.message}</span>
          ) : changed ? (
            draft.kept
          ) : (
            `active, revision ${part.revision}`
          )}
        </span>
        <div className="ml-auto flex items-center gap-2">
          {changed && <Button onClick={back}>Discard the draft</Button>}
          <Adopt
            part={part}
            lane={lane}
            basedOn={basedOn}
            changed={changed}
            good={good}
            problems={check.data?.problems ?? []}
            onAdopted={(adopted) => {
              setLane(adopted.content ?? {});
              setBasedOn(adopted.mark);
            }}
          />
          {part.content !== null && (
            <>
              <Switch
                thing="lanes"
                name={name}
                closed={part.content.state === "closed"}
                what="It goes on taking messages and keeps them until it is opened"
              />
              <Remove thing="lanes" name={name} onDone={() => go("/lanes")} />
            </>
          )}
        </div>
      </div>
      <Notices
        others={others}
        overtaken={overtaken}
        onTake={() => setBasedOn(part.mark)}
        part={part}
        lane={lane}
      />
      <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,5fr)_minmax(0,9fr)_minmax(0,7fr)]">
        <SubjectPanel inlets={inlets} subject={subject} onChange={setSubject} tried={shown} />
        <LaneForm
          name={name}
          lane={lane}
          problems={problems}
          onChange={setLane}
          onSubject={(id) => setSubject({ ...subject, way: "stored", id, facts: {} })}
        />
        <div className="space-y-4">
          {tried.isError && <Failure error={tried.error} />}
          <ResultPanel
            name={name}
            outlet={String(lane.outlet ?? "its outlet")}
            trying={trying}
            tried={tried.data}
            waiting={tried.isFetching && asked !== JSON.stringify(trying)}
          />
        </div>
      </div>
      {lane.memory !== undefined && <MemoryPanel name={name} lane={lane} />}
      <RehearsalPanel name={name} lane={lane} good={good} />
    </div>
  );
}

/** A new lane begins with the inlet of the message it was begun from, a condition, and the outlet it was begun for. */
function starting(): Fields {
  const query = new URLSearchParams(window.location.search);
  const kept = sessionStorage.getItem(`holtra-shape-${query.get("outlet")}`);
  const shape = kept ? (JSON.parse(kept) as Fields) : undefined;
  const lane: Fields = { inlets: query.get("inlet") ? [query.get("inlet")] : [] };
  if (query.get("pick")) lane.pick = query.get("pick");
  if (query.get("outlet")) lane.outlet = query.get("outlet");
  if (shape && Object.keys(shape).length > 0) lane.shape = shape;
  return lane;
}

function Notices({
  others,
  overtaken,
  onTake,
  part,
  lane,
}: {
  others: Draft[];
  overtaken: boolean;
  onTake: () => void;
  part: Part;
  lane: Fields;
}) {
  const [looking, setLooking] = useState(false);
  const note = "rounded bg-wait-wash px-3 py-1.5 text-[13px] text-wait";
  return (
    <>
      {others.map((draft) => (
        <p key={draft.by} className={note}>
          {draft.by} is changing this lane too, last <Since instant={draft.changed} />. Whoever adopts second
          is asked to look at the difference first.
        </p>
      ))}
      {overtaken && (
        <div className={`flex flex-wrap items-center gap-3 ${note}`}>
          <span>
            Somebody changed this lane since you began. Adopting yours as it stands would undo that.
          </span>
          <Button onClick={() => setLooking(true)}>See the difference</Button>
          <Sheet
            open={looking}
            onClose={() => setLooking(false)}
            title="Active lane and your change"
            about="Copy what you want to keep into the newer version, then continue."
            wide
          >
            <Difference label="Difference" was={text(part.content)} now={text(lane)} />
            <div className="mt-4 flex justify-end">
              <Button
                look="main"
                onClick={() => {
                  onTake();
                  setLooking(false);
                }}
              >
                I have seen it; mine goes on from there
              </Button>
            </div>
          </Sheet>
        </div>
      )}
    </>
  );
}

const text = (content: Fields | null) =>
  content === null ? "" : stringify(content, { lineWidth: 0, sortMapEntries: true });

function Adopt({
  part,
  lane,
  basedOn,
  changed,
  good,
  problems,
  onAdopted,
}: {
  part: Part;
  lane: Fields;
  basedOn: string;
  changed: boolean;
  good: boolean;
  problems: SetupProblem[];
  onAdopted: (part: Part) => void;
}) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState("");
  const adopt = useMutation({
    mutationFn: ({ waiting, confirm }: { waiting: string; confirm: string }) =>
      api.adoptPart("lanes", part.name, { content: lane, basedOn, note }, waiting, confirm),
    onSuccess: async (adopted) => {
      setOpen(false);
      setNote("");
      onAdopted(adopted);
      await client.invalidateQueries();
    },
  });
  const asks = Object.keys(waitingOf(adopt.error)).length > 0;
  const overtaken = adopt.error instanceof Problem && adopt.error.more.why === "overtaken";
  const elsewhere = problems.filter((problem) => !problem.where.startsWith(`lanes.${part.name}`));
  return (
    <>
      <Button
        look="main"
        disabled={!changed || !good}
        title={good ? undefined : "The lane has errors, or is being checked"}
        onClick={() => setOpen(true)}
      >
        Apply…
      </Button>
      <Sheet
        open={open && !asks}
        onClose={() => setOpen(false)}
        title={part.content === null ? `Apply lane ${part.name}` : `Apply the change of ${part.name}`}
        about="It takes effect at once and as a whole, and can be undone under Settings."
        wide
      >
        <Difference label="Changes to the active lane" was={text(part.content)} now={text(lane)} />
        {elsewhere.map((problem) => (
          <p key={problem.where} className="mt-2 text-bad">
            {problem.where}: {problem.what}
          </p>
        ))}
        <form
          className="mt-4 flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            adopt.mutate({ waiting: "refuse", confirm: "" });
          }}
        >
          <div className="grow">
            <Field
              label="Reason for the change"
              placeholder="shown in the list of revisions"
              value={note}
              onChange={(event) => setNote(event.target.value)}
            />
          </div>
          <Button type="submit" look="main" disabled={adopt.isPending}>
            Apply
          </Button>
        </form>
        {adopt.isError && !asks && (
          <p role="alert" className="mt-2 text-bad">
            {adopt.error.message}
            {overtaken && " Close this, and see the difference above."}
          </p>
        )}
      </Sheet>
      <WaitingSheet
        error={adopt.error}
        name={part.name}
        mayFollow
        onChoose={(waiting, confirm) => adopt.mutate({ waiting, confirm })}
        onClose={() => adopt.reset()}
      />
    </>
  );
}
