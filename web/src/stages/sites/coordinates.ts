import type { GeoPoint } from "../../api/schema";
import { readNumber } from "../../ui/number";

/** What stands in the two coordinate fields. */
export interface PlaceText {
  latitude: string;
  longitude: string;
}

const text = (value: number | undefined) => (value === undefined ? "" : String(value).replace("-", "−"));

export const placeText = (place: GeoPoint | null | undefined): PlaceText => ({
  latitude: text(place?.latitude_deg),
  longitude: text(place?.longitude_deg),
});

const number = (typed: string) => readNumber(typed, "°") ?? Number.NaN;

/** Both fields or none; the ranges are checked by the server. */
export function readPlace(typed: PlaceText): { place: GeoPoint | null; error?: string } {
  const [latitude, longitude] = [typed.latitude.trim(), typed.longitude.trim()];
  if (latitude === "" && longitude === "") return { place: null };
  const place = { latitude_deg: number(latitude), longitude_deg: number(longitude) };
  if (
    latitude === "" ||
    longitude === "" ||
    Number.isNaN(place.latitude_deg) ||
    Number.isNaN(place.longitude_deg)
  ) {
    return { place: null, error: "Two decimal numbers, for instance 61.42 and 8.21; or leave both empty." };
  }
  return { place };
}

/** The place as two fields say it that were found to be right. */
export const placeOf = (typed: PlaceText): GeoPoint | null => readPlace(typed).place;
