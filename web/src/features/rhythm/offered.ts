import { useEffect, useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";
import type { Opening } from "./rhythm";

type Offer = { offered: Opening[] };

/** State of a navigation to a form that offers it openings. */
export const offerOf = (offered: Opening[]): Offer => ({ offered });

/**
 * Has a form take the openings that it was opened with, once: they are filled in, and nothing is saved. Tells whether there
 * were any.
 */
export function useOffered(take: (openings: Opening[]) => void): boolean {
  const here = useLocation();
  const navigate = useNavigate();
  const [came, setCame] = useState(false);
  const done = useRef(false);
  const offered = (here.state as Partial<Offer> | null)?.offered;
  useEffect(() => {
    if (!offered || done.current) return;
    done.current = true;
    take(offered);
    setCame(true);
    // Whoever comes back to this address is not offered them again.
    void navigate({ pathname: here.pathname, search: here.search }, { replace: true, state: null });
  }, [offered, take, navigate, here.pathname, here.search]);
  return came;
}
