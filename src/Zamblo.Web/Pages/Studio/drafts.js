// What is typed is kept in the browser until it is used or thrown away: Escape, a reload and a refused edit lose nothing.
const name = (key) => `draft:${key}`;

export const drafts = {
  read(key) {
    return localStorage.getItem(name(key)) ?? "";
  },
  // A text that is the same as what is there already is no draft.
  keep(key, text, otherwise = "") {
    if (text === otherwise || text.trim() === "") localStorage.removeItem(name(key));
    else localStorage.setItem(name(key), text);
  },
  drop(key) {
    localStorage.removeItem(name(key));
  },
};
