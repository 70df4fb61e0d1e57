import { lazy, useState, type ComponentType } from "react";

type Load = () => Promise<{ default: ComponentType }>;

/**
 * A screen whose code is loaded when it is wanted. If it has come before the screen is drawn it is drawn at once:
 * a lazy component always shows its fallback first, and React keeps that up for a third of a second.
 */
export function screen(load: Load) {
  let Loaded: ComponentType | undefined;
  const get: Load = async () => {
    const module = await load();
    Loaded = module.default;
    return module;
  };
  const Lazy = lazy(get);
  function Screen() {
    // One and the same for as long as the screen is shown: another component in its place would begin the screen
    // anew, and all that was typed there would be lost.
    const [Shown] = useState(() => Loaded ?? Lazy);
    return <Shown />;
  }
  return { Screen, get };
}
