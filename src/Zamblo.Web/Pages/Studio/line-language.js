// Which language a recording is in: that of its voice, unless somebody says another one.
import { patch } from "../../front/api.js";
import { nameOfLanguage } from "./languages.js";

const plain = (tag) => nameOfLanguage(tag).replace(/ \(.*$/, "");
const primary = (tag) => tag.split("-")[0];

export const lineLanguage = () => ({
  // All that any voice here speaks, for how their words are said is known; those that this scene is in come first.
  languagesFor(line) {
    const { voices } = this;
    const here = new Set((this.scene?.lines ?? []).map((l) => l.language).filter((l) => l));
    const tags = new Set(["en", ...voices.map((v) => primary(v.language)), ...here]);
    const rows = [...tags].map((tag) => ({ tag, name: plain(tag), isHere: here.has(tag), isTold: tag === line?.language }));
    return rows.sort((a, b) => b.isHere - a.isHere || a.name.localeCompare(b.name));
  },
  languageOfVoice(line) {
    const member = this.scene?.members.find((m) => m.id === line?.member);
    const voice = this.voices.find((v) => v.key === member?.voice.split("+")[0]);
    return voice ? `as its voice: ${plain(voice.language)}` : "as its voice";
  },
  sayLanguage(line, language) {
    const said = language ? `Heard as ${plain(language)}.` : "Heard in the language of its voice.";
    return this.edit(() => patch(`/api/lines/${line.id}`, { revision: this.revision, language }), said);
  },
  chooseLanguageOf(line, event) {
    return this.sayLanguage(line, event.target.value);
  },
});
