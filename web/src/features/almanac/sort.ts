/** What the plan as a list can be sorted by. */
const sortable = ["time", "title", "standing", "author", "category"];

export type Sort = { id: string; desc: boolean };

/** Reads a sort as the address has it, such as "title" or "-title"; by time where it is none. */
export function readSort(text: string): Sort {
  const id = text.replace(/^-/, "");
  return sortable.includes(id) ? { id, desc: text.startsWith("-") } : { id: "time", desc: false };
}

export const writeSort = ({ id, desc }: Sort) => `${desc ? "-" : ""}${id}`;
