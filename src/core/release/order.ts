import semver from "semver";

/** A release and when it was first heard, Unix ms. */
interface Heard {
  release: string | null;
  firstAt: number;
}

/**
 * Releases, the newest first: by their numbers where all have semantic versions (Semantic Versioning 2.0.0, "11"), so that
 * a mended old line does not stand above what came after it; else by when each was first heard.
 */
export function newestFirst<T extends Heard>(releases: readonly T[]): T[] {
  const byFirst = (a: T, b: T) => b.firstAt - a.firstAt;
  const versions = new Map<string | null, semver.SemVer>();
  for (const { release } of releases) {
    const version = semver.parse(release ?? "");
    if (version === null) return [...releases].sort(byFirst);
    versions.set(release, version);
  }
  return [...releases].sort(
    (a, b) => semver.rcompare(versions.get(a.release)!, versions.get(b.release)!) || byFirst(a, b),
  );
}
