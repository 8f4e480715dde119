import Link from "next/link";

/** What stands in the place of a page that is not there; navigation and time rail stay. */
export default function NotFound() {
  return (
    <div className="plate p-3">
      <h1 className="font-bold">There is no such page</h1>
      <p className="text-muted">
        The address may be cut off, or from another version. The pages are in the ladder on the left; a service's own
        page is reached from{" "}
        <Link href="/services" className="slot">
          Services
        </Link>
        .
      </p>
    </div>
  );
}
