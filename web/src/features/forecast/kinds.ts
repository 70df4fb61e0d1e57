/** The kinds of deeds: the word and the mark of each. */
export const kindWords = {
  publish: { word: "publish", plural: "publications", mark: "│", color: "text-ink" },
  move: { word: "move", plural: "moved", mark: "→", color: "text-ink" },
  hold: { word: "hold", plural: "held", mark: "‖", color: "text-madder" },
  share: { word: "share", plural: "outings", mark: "◆", color: "text-share" },
  republish: { word: "out again", plural: "republications", mark: "↻", color: "text-again" },
  archive: { word: "archive", plural: "archived", mark: "▽", color: "text-away" },
  "to draft": { word: "to draft", plural: "back to draft", mark: "◁", color: "text-away" },
  bin: { word: "bin", plural: "binned", mark: "✕", color: "text-away" },
  ask: { word: "asks", plural: "rules that ask", mark: "?", color: "text-madder" },
} as const;

export type DeedKind = keyof typeof kindWords;
