/** The kinds of deeds: the word and the mark of each. */
export const kindWords = {
  publish: { word: "publish", one: "publication", plural: "publications", mark: "│", color: "text-ink" },
  move: { word: "move", one: "moved", plural: "moved", mark: "→", color: "text-ink" },
  hold: { word: "hold", one: "held", plural: "held", mark: "‖", color: "text-madder" },
  share: { word: "share", one: "outing", plural: "outings", mark: "◆", color: "text-share" },
  skip: {
    word: "left out",
    one: "outing left out",
    plural: "outings left out",
    mark: "◇",
    color: "text-share",
  },
  "set aside": {
    word: "set aside",
    one: "outing set aside",
    plural: "outings set aside",
    mark: "◈",
    color: "text-madder",
  },
  plan: { word: "planned", one: "outing planned", plural: "outings planned", mark: "◌", color: "text-share" },
  republish: {
    word: "out again",
    one: "republication",
    plural: "republications",
    mark: "↻",
    color: "text-again",
  },
  archive: { word: "archive", one: "archived", plural: "archived", mark: "▽", color: "text-away" },
  "to draft": {
    word: "to draft",
    one: "back to draft",
    plural: "back to draft",
    mark: "◁",
    color: "text-away",
  },
  bin: { word: "bin", one: "binned", plural: "binned", mark: "✕", color: "text-away" },
  "timed edit": {
    word: "edit",
    one: "timed edit",
    plural: "timed edits",
    mark: "✎",
    color: "text-edit",
  },
  "hold edit": {
    word: "edit on hold",
    one: "edit on hold",
    plural: "edits on hold",
    mark: "✎",
    color: "text-madder",
  },
  ask: { word: "asks", one: "rule that asks", plural: "rules that ask", mark: "?", color: "text-madder" },
} as const;

export type DeedKind = keyof typeof kindWords;
