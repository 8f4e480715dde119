import { nameOf } from "@/access/callers";
import { announceRelease, getReleases } from "@/core/api/calls/releases";
import { listReleases } from "@/store/registry/catalogue";
import { announce, announcementsOf } from "@/store/releases/announcements";
import { database } from "../database";
import { Refusal, record, serve } from "../serve";

export const dynamic = "force-dynamic";

export const GET = serve(getReleases, async ({ query: { service, environment } }) => ({
  releases: await listReleases(database(), service, environment),
  announced: await announcementsOf(database(), service, environment),
}));

export const POST = serve(announceRelease, async (asked) => {
  const { body, caller } = asked;
  if (caller.kind === "key" && caller.environment !== "" && caller.environment !== body.environment)
    throw new Refusal(403, {
      title: "Not allowed",
      detail: `the key is for the environment ${caller.environment}, the release is of ${body.environment || "none"}`,
    });
  const told = await announce(database(), body, nameOf(caller));
  if (told.changed) await record(asked, "announced a release", `${body.service} ${body.version}`);
  return told;
});
