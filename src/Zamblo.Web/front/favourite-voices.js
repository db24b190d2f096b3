// Voices that are starred, in the studio and on the page of voices alike: kept in the browser.
const place = "favourite-voices";

export const favouriteVoices = () => JSON.parse(localStorage.getItem(place) ?? "[]");

export function withToggled(keys, key) {
  const now = keys.includes(key) ? keys.filter((k) => k !== key) : [...keys, key];
  localStorage.setItem(place, JSON.stringify(now));
  return now;
}
