import { type InvalidateOptions, type InvalidateQueryFilters, QueryClient } from "@tanstack/react-query";
import { isRefusal } from "./api";

/** For so long an answer is as good as new, ms: what came with the document is not asked for again at once. */
const FRESH = 4000;

/** What failed is asked again after so long, ms, so that a page recovers when the server does. */
const AFTER_FAILURE = 4000;

/** When an answer is asked for again that is asked for every so many ms (false: only where it failed). */
export const every =
  (usual: number | false) =>
  ({ state }: { state: { status: string; error: Error | null } }): number | false =>
    state.status === "error" && !isRefusal(state.error) ? Math.min(AFTER_FAILURE, usual || AFTER_FAILURE) : usual;

/**
 * The cache of answers. What is changed makes answers old, those too that are asked for the first time and have not come yet:
 * the library would take them for new, though they may have been made before the change. What no page looks at is left alone:
 * who awaits it would get nothing.
 */
export class AnswersClient extends QueryClient {
  constructor() {
    super({
      defaultOptions: {
        queries: {
          refetchOnWindowFocus: false,
          staleTime: FRESH,
          refetchInterval: every(false),
          retry: (count, error) => count < 2 && !isRefusal(error),
        },
      },
    });
  }

  override async invalidateQueries(filters?: InvalidateQueryFilters, options?: InvalidateOptions): Promise<void> {
    const onTheWay = this.getQueryCache()
      .findAll({ ...filters, fetchStatus: "fetching" } as InvalidateQueryFilters)
      .filter((query) => query.state.data === undefined && query.isActive());
    await Promise.all(onTheWay.map((query) => query.cancel({ revert: true, silent: true })));
    return super.invalidateQueries(filters, options);
  }
}
