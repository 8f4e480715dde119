"use client";

import { useQuery } from "@tanstack/react-query";
import type { DriftShift } from "@/core/api/drift";
import type { LadderAnswer } from "@/core/api/releases";
import { leakText, shiftText, slopeText } from "@/core/release/driftSays";
import { HOUR } from "@/core/window/lengths";
import Link from "../frame/link";
import { every } from "../query/answersClient";
import { asking } from "../query/asking";
import { comparisonAddress } from "../query/compared";
import { driftQuestion } from "../query/questions";
import { useTimes } from "../query/times";

/** Of many changes the latest are told. */
const MAX = 5;
/** How much after a change is compared with the day before, ms. */
const LOOKED_AT = 6 * HOUR;

function Shift({ shift, ladder }: { shift: DriftShift; ladder: LadderAnswer }) {
  const { moment } = useTimes();
  const span = new URLSearchParams({ from: String(shift.at + HOUR), to: String(shift.at + HOUR + LOOKED_AT) });
  const release = shift.serving;
  return (
    <li>
      <span aria-hidden="true" className="text-error">
        ◆{" "}
      </span>
      nothing was released, yet <b>{shiftText(shift)}</b> on {moment(shift.at).slice(0, -3)}
      {shift.cause !== null && (
        <>
          , from <span className="num">{shift.cause}</span>
        </>
      )}
      {release !== null && (
        <>
          {" "}
          (
          <Link
            href={comparisonAddress(`?${span}`, { ...ladder, release, against: release })}
            className="underline decoration-dotted underline-offset-2"
          >
            against the day before
          </Link>
          )
        </>
      )}
    </li>
  );
}

/** What changed in the last weeks without a release. */
export function DriftList({ ladder }: { ladder: LadderAnswer }) {
  const { moment } = useTimes();
  const { service, environment } = ladder;
  const { data } = useQuery({ ...asking(driftQuestion({ service, environment })), refetchInterval: every(60_000) });
  const drift = data?.drift;
  if (!drift) return null;
  const shifts = drift.shifts.filter(({ release }) => release === null).slice(-MAX);
  if (shifts.length === 0 && drift.slopes.length === 0 && drift.leak === null) return null;
  return (
    <ul className="mt-2 space-y-0.5 px-1 text-[13px]">
      {[...shifts].reverse().map((shift) => (
        <Shift key={`${shift.measure} ${shift.at}`} shift={shift} ladder={ladder} />
      ))}
      {drift.slopes.map((slope) => (
        <li key={slope.measure}>
          <span aria-hidden="true" className="text-error">
            ◆{" "}
          </span>
          since {moment(slope.since).slice(0, -3)} <b>{slopeText(slope)}</b>
        </li>
      ))}
      {drift.leak && (
        <li>
          <span aria-hidden="true" className="text-error">
            ◆{" "}
          </span>
          looks like a leak: <b>{leakText(drift.leak)}</b>
          {drift.leak.instances > 1 && `, in ${drift.leak.instances} instances`}
        </li>
      )}
    </ul>
  );
}
