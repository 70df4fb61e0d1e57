import type { Status } from "./comments";

/** What can be decided about comments of some statuses. */
export const decisions: { to: Status; name: string; done: string; from: Status[] }[] = [
  { to: "shown", name: "Approve", done: "approved", from: ["held"] },
  { to: "shown", name: "Restore", done: "restored", from: ["binned"] },
  { to: "held", name: "Hide", done: "hidden", from: ["shown"] },
  { to: "binned", name: "Delete", done: "in the bin", from: ["held", "shown"] },
];
