import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type TagCounts } from "../api";
import { Empty, Failure, Loading, Panel } from "../ui/panel";
import { Since } from "../ui/time";
import { count, plural } from "../words";

/** What became of each series or metric that an outlet writes; nothing for kinds whose destinations know no such names. */
export function Tags({ outlet }: { outlet: string }) {
  const [search, setSearch] = useState("");
  const tags = useQuery({
    queryKey: ["tags", outlet],
    queryFn: () => api.tags(outlet),
    refetchInterval: 10_000,
  });
  if (tags.isError && !tags.data) return <Failure error={tags.error} />;
  if (!tags.data) return <Loading />;
  const { known, tags: all, messages, since, more } = tags.data;
  if (!known) return null;
  const shown = all.filter((tag) => tag.name.toLowerCase().includes(search.trim().toLowerCase()));
  return (
    <Panel
      title="Tags"
      label="Tags"
      aside={
        <input
          aria-label="Search in names of tags"
          placeholder="Search"
          className="h-7 w-44 rounded border border-rule bg-sheet px-2 text-[13px]"
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
      }
    >
      {all.length === 0 ? (
        <Empty title="No tags yet">Send a message by one of its lanes, and its series appear here.</Empty>
      ) : (
        <>
          <p className="border-b border-rule px-4 py-1.5 text-[13px] text-ink-soft">
            {plural(all.length, "tag", "tags")}
            {more && " and more"} in the last {plural(messages, "message", "messages")}
            {since && (
              <>
                , the oldest <Since instant={since} />
              </>
            )}
          </p>
          <div className="max-h-96 overflow-auto">
            <table className="w-full">
              <thead className="sticky top-0 bg-sheet">
                <tr className="border-b border-rule [&>th]:px-3 [&>th]:py-1">
                  <th>Tag</th>
                  <th className="text-right!">found</th>
                  <th className="text-right!">wanted</th>
                  <th className="text-right!">written</th>
                  <th className="text-right!">refused</th>
                  <th className="text-right!">waiting</th>
                  <th className="text-right!">last value</th>
                  <th>measured</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((tag) => (
                  <Row key={tag.name} tag={tag} />
                ))}
              </tbody>
            </table>
          </div>
        </>
      )}
    </Panel>
  );
}

function Row({ tag }: { tag: TagCounts }) {
  return (
    <tr className="border-b border-rule last:border-0 hover:bg-inset [&>td]:px-3 [&>td]:py-1">
      <td className="font-mono text-[12.5px]">{tag.name}</td>
      <td className="text-right">{count(tag.found)}</td>
      <td className="text-right">{count(tag.wanted)}</td>
      <td className="text-right">{count(tag.written)}</td>
      <td className={`text-right ${tag.refused > 0 ? "font-semibold text-bad" : ""}`}>
        {count(tag.refused)}
      </td>
      <td className={`text-right ${tag.waiting > 0 ? "text-wait" : ""}`}>{count(tag.waiting)}</td>
      <td className="max-w-40 truncate text-right font-mono text-[12.5px]">
        {tag.value === null ? "" : String(tag.value)}
      </td>
      <td className="whitespace-nowrap">{tag.last ? <Since instant={tag.last} /> : "never"}</td>
    </tr>
  );
}
