import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Revision } from "../api";
import { usePages } from "../pages-of-list";
import { SetupFile } from "../parts/setup-file";
import { WaitingSheet, waitingOf } from "../parts/waiting";
import { Button } from "../ui/button";
import { Sheet } from "../ui/dialog";
import { Difference } from "../ui/difference";
import { More } from "../ui/more";
import { Failure, Loading, Panel } from "../ui/panel";
import { Time } from "../ui/time";

/** The setup as a whole: the file itself, and every revision with who and when and the way back. */
export function SetupPage() {
  return (
    <div className="grid items-start gap-4 lg:grid-cols-[minmax(0,7fr)_minmax(0,5fr)]">
      <SetupFile />
      <Revisions />
    </div>
  );
}

function Revisions() {
  const pages = usePages(["revisions"], api.setupRevisions, 5000);
  const revisions = pages.data?.pages.flatMap((page) => page.revisions);
  const [seen, setSeen] = useState<Revision | null>(null);
  if (pages.isError && !revisions) return <Failure error={pages.error} />;
  if (!revisions) return <Loading />;
  const newest = revisions[0]?.revision;
  return (
    <Panel title="Revisions" aside="Any of them can be applied again">
      <table className="w-full">
        <thead>
          <tr className="border-b border-rule [&>th]:px-4 [&>th]:py-1.5">
            <th className="w-16">No.</th>
            <th>Note</th>
            <th>Who</th>
            <th>When</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {revisions.map((one) => (
            <tr key={one.revision} className="border-b border-rule last:border-0 [&>td]:px-4 [&>td]:py-1.5">
              <td>{one.revision}</td>
              <td>
                {one.note ?? <span className="text-ink-faint">no note</span>}
                {one.revision === newest && <span className="ml-2 text-[12px] text-good">active</span>}
              </td>
              <td className="text-ink-soft">{one.adoptedBy}</td>
              <td className="text-ink-soft">
                <Time instant={one.adopted} />
              </td>
              <td className="text-right">
                <Button onClick={() => setSeen(one)}>
                  {one.revision === newest ? "Compare" : "Compare, apply again"}
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <More pages={pages} />
      {seen && newest !== undefined && (
        <OneRevision revision={seen} newest={newest} onClose={() => setSeen(null)} />
      )}
    </Panel>
  );
}

function OneRevision({
  revision,
  newest,
  onClose,
}: {
  revision: Revision;
  newest: number;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const here = revision.revision === newest;
  const [against, setAgainst] = useState<"before" | "now">("before");
  const other = against === "before" ? revision.revision - 1 : newest;
  const text = useQuery({
    queryKey: ["revision", revision.revision],
    queryFn: () => api.setupRevision(revision.revision),
  });
  const held = useQuery({
    queryKey: ["revision", other],
    queryFn: async () => (other < 1 ? "" : (await api.setupRevision(other)).yaml),
  });
  const undo = useMutation({
    mutationFn: (waiting: string) => api.undoTo(revision.revision, waiting),
    onSuccess: async () => {
      await client.invalidateQueries();
      onClose();
    },
  });
  const asks = Object.keys(waitingOf(undo.error)).length > 0;
  const ready = text.data !== undefined && held.data !== undefined;
  return (
    <>
      <Sheet
        open={!asks}
        onClose={onClose}
        wide
        title={`Revision ${revision.revision}: ${revision.note ?? "no note"}`}
        about={`applied by ${revision.adoptedBy}`}
      >
        {!here && (
          <div className="mb-3 flex gap-2">
            <Button onClick={() => setAgainst("before")} aria-pressed={against === "before"}>
              What it changed
            </Button>
            <Button onClick={() => setAgainst("now")} aria-pressed={against === "now"}>
              What going back would change
            </Button>
          </div>
        )}
        {ready && <Difference label="Difference" was={held.data ?? ""} now={text.data?.yaml ?? ""} />}
        {undo.isError && !asks && <p className="mt-2 text-bad">{undo.error.message}</p>}
        {!here && (
          <div className="mt-4 flex justify-end">
            <Button look="main" disabled={undo.isPending} onClick={() => undo.mutate("refuse")}>
              Apply revision {revision.revision} again
            </Button>
          </div>
        )}
      </Sheet>
      <WaitingSheet
        error={undo.error}
        name={`revision-${revision.revision}`}
        mayFollow
        onChoose={(waiting) => undo.mutate(waiting)}
        onClose={() => undo.reset()}
      />
    </>
  );
}
