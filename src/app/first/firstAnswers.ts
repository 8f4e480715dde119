import {
  type DehydratedState,
  defaultShouldDehydrateQuery,
  dehydrate,
  hashKey,
  QueryClient,
} from "@tanstack/react-query";
import { placeIn } from "@/core/service/place";
import { choiceOf, spanOfChoice } from "@/core/window/window";
import { isEntry, type PagePath } from "@/ui/frame/pages";
import { meQuestion, overviewQuestion, railAround, railQuestion, releasesQuestion } from "@/ui/query/questions";
import { askHere, type Take } from "./askHere";
import { FIRST } from "./pages";

/** Longer answers do not come with the document, characters: drawing thousands of rows would hold up everybody else's pages. */
const MAX_WITH_DOCUMENT = 128 * 1024;

const numberIn = (parameters: URLSearchParams, name: string): number | null => {
  const text = parameters.get(name);
  return text !== null && /^\d{1,15}$/.test(text) ? Number(text) : null;
};

/**
 * The first answers of a page, to go out with its document: those that are quick are in it, those that take longer come
 * behind it while the browser is still loading the code.
 *
 * @param address path and query of the page
 * @param now the moment at which the page is opened, Unix ms
 * @param zone the viewer's zone; null until their browser has told it
 * @param as the headers that the document was asked for with
 */
export async function firstAnswers(
  address: string,
  now: number,
  zone: string | null,
  as: Headers,
): Promise<DehydratedState> {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const large = new Set<string>();
  const take: Take = async (question) => {
    const { queryKey } = question;
    const queryFn = async () => {
      const { answer, size } = await askHere(question, as);
      if (size > MAX_WITH_DOCUMENT) large.add(hashKey(queryKey));
      return answer;
    };
    return client.fetchQuery({ queryKey, queryFn }).catch(() => null);
  };
  const { pathname, searchParams: parameters } = new URL(address, "http://localhost");
  const me = take(meQuestion());
  if (isEntry(pathname)) {
    await me;
    return dehydrate(client);
  }
  const overview = await take(overviewQuestion());
  if (overview && overview.services.length > 0) {
    const place = placeIn(overview.services, parameters.get("service"), parameters.get("environment"));
    const [from, to] = [numberIn(parameters, "from"), numberIn(parameters, "to")];
    const choice = choiceOf({ last: parameters.get("last"), from, to });
    const span = spanOfChoice(choice, now);
    // What is drawn is drawn by the age of releases.
    if (place) void take(releasesQuestion(place));
    const first = FIRST[pathname as PagePath]?.(take, {
      parameters,
      place,
      choice,
      span,
      zone,
      services: overview.services,
      me,
    });
    if (place) void take(railQuestion(place, railAround(span, now)));
    await first;
  }
  await me;
  return dehydrate(client, {
    shouldDehydrateQuery: (query) =>
      !large.has(query.queryHash) && (defaultShouldDehydrateQuery(query) || query.state.status === "pending"),
  });
}
