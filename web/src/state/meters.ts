import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api } from "../api/client";
import type { Meter, Part, ShotReply } from "../api/types.gen";
import { remember, stored } from "./stored";
import { useUi } from "./ui";
import { create } from "zustand";

/** Whether meters stand under the score and beside the bench, whatever the step. */
export const useMetering = create(() => ({ on: stored("metering", false) }));
useMetering.subscribe(({ on }) => remember("metering", on));

export interface Measured {
  part?: Part; // that is measured: the selected one
  against: string; // the part that its distance is measured to; empty for none
  list: Meter[];
  busy: boolean;
}

/** How the selected part goes, on every frame, while somebody looks at it. */
export function useMeters(shot: ShotReply): Measured {
  const id = useUi((s) => s.selected) ?? "";
  const other = useUi((s) => s.against);
  const checking = useUi((s) => s.step === "Check");
  const on = useMetering((s) => s.on) || checking;
  const part = shot.document.parts.find((p) => p.id === id);
  const against = shot.document.parts.some((p) => p.id === other) && other !== id ? other : "";
  const { data, isFetching } = useQuery({
    queryKey: ["meters", shot.id, shot.version, id, against],
    queryFn: () => api.meters(shot.id, id, against),
    enabled: on && part !== undefined,
    placeholderData: keepPreviousData,
    gcTime: 30_000,
  });
  return { part, against, list: (on && part && data?.meters) || [], busy: isFetching };
}

/** A reading, as short as it is exact enough. */
export const reading = (v: number | undefined) =>
  Math.abs(v ?? 0) < 0.005 ? "0" : Number(v!.toPrecision(3)).toLocaleString("en");
