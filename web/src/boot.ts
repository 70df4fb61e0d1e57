// What the screens take for granted and older browsers lack is fetched before them.
if (!("Temporal" in globalThis)) await import("temporal-polyfill/global");
await import("./main");

export {};
