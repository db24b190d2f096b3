// Names of languages, as people read them.
const names = new Intl.DisplayNames(["en"], { type: "language", fallback: "code" });

export const nameOfLanguage = (tag) => {
  try {
    return `${names.of(tag)} (${tag})`;
  } catch {
    return tag;
  }
};
