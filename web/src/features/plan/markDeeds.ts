import { useMutation } from "../../api/mutation";
import { answer, api } from "../../api/client";
import { useRefresh } from "../../api/live";
import { instantOf } from "../channels/moment";
import { hhmm } from "../../ui/civil";
import { Temporal } from "../../ui/temporal";
import type { DeedMark } from "./marks";

/** Whether a mark can be moved or left out: a message or a timed edit to come. */
export const isMovable = (m: DeedMark) =>
  m.state === "coming" && ((m.messages?.length ?? 0) > 0 || (m.editId ?? 0) > 0);

type Moved = { mark: DeedMark; date: string; minute: number };

/** Moves the messages of a mark, or leaves them out; rules go on around that. A timed edit is moved, or dropped. */
export function useMarkDeeds(site: string) {
  const refresh = useRefresh(site);
  const onSettled = () => refresh("rules");
  const rule = (id: number) => ({ params: { path: { site, id } } });
  return {
    move: useMutation({
      mutationFn: async ({ mark, date, minute }: Moved) => {
        const at = instantOf({ date, time: hhmm(minute) });
        if (!at) return;
        const by = Math.round(
          Temporal.Instant.from(mark.at).until(Temporal.Instant.from(at)).total({ unit: "minutes" }),
        );
        if (by === 0) return;
        if (mark.editId)
          await answer(
            api.POST("/api/v1/sites/{site}/edits/{id}/retime", {
              ...rule(mark.editId),
              body: { version: mark.editVersion ?? 0, at: { date, clock: hhmm(minute) } },
            }),
          );
        for (const turn of turnsOf(mark))
          await answer(
            api.POST("/api/v1/sites/{site}/rules/{id}/turns/move", {
              ...rule(mark.ruleId ?? 0),
              body: { turn, by },
            }),
          );
        for (const { outingId, version } of mark.messages ?? [])
          if (outingId)
            await answer(
              api.PUT("/api/v1/sites/{site}/outings/{id}/time", {
                params: { path: { site, id: outingId } },
                body: { at, version: version ?? 0 },
              }),
            );
      },
      onSettled,
    }),
    leaveOut: useMutation({
      mutationFn: async (mark: DeedMark) => {
        if (mark.editId)
          await answer(
            api.DELETE("/api/v1/sites/{site}/edits/{id}", {
              params: { path: { site, id: mark.editId }, query: { version: mark.editVersion ?? 0 } },
            }),
          );
        for (const turn of turnsOf(mark))
          await answer(
            api.POST("/api/v1/sites/{site}/rules/{id}/turns", {
              ...rule(mark.ruleId ?? 0),
              body: { turn, outings: [] },
            }),
          );
        for (const { outingId, version } of mark.messages ?? [])
          if (outingId)
            await answer(
              api.DELETE("/api/v1/sites/{site}/outings/{id}", {
                params: { path: { site, id: outingId }, query: { version: version ?? 0 } },
              }),
            );
      },
      onSettled,
    }),
  };
}

/** The turns of its rule that a mark's messages are of, each once. */
function turnsOf(mark: DeedMark): string[] {
  return [...new Set((mark.messages ?? []).flatMap((m) => (m.turn ? [m.turn] : [])))];
}
