import type { Temporal as Spec } from "temporal-polyfill";

/** Dates and times as the language has them. Where a browser lacks them, boot.ts fetches them first. */
export const Temporal = (globalThis as unknown as { Temporal: typeof Spec }).Temporal;

export type PlainDate = Spec.PlainDate;
export type ZonedDateTime = Spec.ZonedDateTime;
