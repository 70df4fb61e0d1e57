import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Unreachable, type Schemas } from "../../api/client";

export type Forecast = Schemas["Forecast"];
export type ForecastEvent = Schemas["ForecastEvent"];

/** What will happen in so many days, and how far the work has got; leaving the screen ends it. */
export function useForecast(site: string, days: number) {
  const [share, setShare] = useState(0);
  const query = useQuery({
    queryKey: ["plan", site, "forecast", days],
    queryFn: ({ signal }) => {
      setShare(0);
      return follow(
        `/api/v1/sites/${encodeURIComponent(site)}/forecast/follow?days=${days}`,
        signal,
        setShare,
      );
    },
    placeholderData: keepPreviousData,
    retry: false,
  });
  return { ...query, share };
}

/** Follows a forecast until it is there. */
function follow(address: string, signal: AbortSignal, tell: (share: number) => void): Promise<Forecast> {
  return new Promise((done, fail) => {
    const events = new EventSource(address);
    const end = (error: Error) => {
      events.close();
      fail(error);
    };
    signal.addEventListener("abort", () =>
      end(new DOMException("The forecast was called off.", "AbortError")),
    );
    events.addEventListener("progress", (e: MessageEvent<string>) =>
      tell((JSON.parse(e.data) as Schemas["ForecastProgress"]).share),
    );
    events.addEventListener("forecast", (e: MessageEvent<string>) => {
      events.close();
      done(JSON.parse(e.data) as Forecast);
    });
    events.addEventListener("trouble", (e: MessageEvent<string>) =>
      end(new Error((JSON.parse(e.data) as Schemas["ForecastTrouble"]).detail)),
    );
    events.addEventListener("error", () => end(new Unreachable()));
  });
}
