import { z } from "zod";
import { dateIfAny, timeOfDay, whole } from "../../ui/schema";

/** What of a wish is typed. */
export const wishSchema = z.looseObject({
  start: dateIfAny,
  end: dateIfAny,
  days: whole.optional(),
  pattern: z
    .looseObject({ from: timeOfDay, to: timeOfDay, everyDays: whole, count: whole, gap: whole })
    .optional(),
});
