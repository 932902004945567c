import { Button } from "./button";

/** Under a long list: asks for its next page. */
export function More({
  pages,
}: {
  pages: { hasNextPage: boolean; isFetchingNextPage: boolean; fetchNextPage: () => unknown };
}) {
  if (!pages.hasNextPage) return null;
  return (
    <p className="border-t border-rule px-4 py-2">
      <Button onClick={() => pages.fetchNextPage()} disabled={pages.isFetchingNextPage}>
        {pages.isFetchingNextPage ? "Loading …" : "Show more"}
      </Button>
    </p>
  );
}
