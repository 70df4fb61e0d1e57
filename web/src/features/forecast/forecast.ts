import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Forecast = Schemas["Forecast"];
export type ForecastEvent = Schemas["ForecastEvent"];

/** What will happen in so many days; leaving the screen ends the work. */
export function useForecast(site: string, days: number) {
  return useQuery({
    queryKey: ["plan", site, "forecast", days],
    queryFn: ({ signal }) =>
      answer(
        api.GET("/api/v1/sites/{site}/forecast", { params: { path: { site }, query: { days } }, signal }),
      ),
    placeholderData: keepPreviousData,
  });
}
