import { z } from "zod";
import { isDate, isTime } from "./typed";

// What fields hand on, as schemas: what they could not read does not pass.

/** A time of day as 09:40. */
export const timeOfDay = z.string().refine(isTime, "Enter a time, such as 9:40.");

/** A date as 2026-12-04. */
export const date = z.string().refine(isDate, "Enter a date, such as 4 Dec.");

/** A date, or nothing. */
export const dateIfAny = z
  .string()
  .refine((d) => d === "" || isDate(d), "Enter a date, such as 4 Dec.")
  .optional();

/** A whole number. */
export const whole = z.number("Enter a whole number.");

/** A text with something in it. */
export const named = (what: string) => z.string().refine((s) => s.trim() !== "", what);

/** A value of which nothing is checked before it is saved: what is wrong with it the server says. */
export const anything = <T>() => z.any() as unknown as z.ZodType<T, T>;
