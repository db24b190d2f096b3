// The voice that a cast member's typed lines are spoken with.
import { variants } from "./voice-names.js";

export const memberVoicePanel = () => ({
  get voiceVariants() {
    return Object.entries(variants).map(([key, text]) => ({ key, text }));
  },
  get voiceBase() {
    return this.member?.voice.split("+")[0] ?? "";
  },
  get voiceVariant() {
    return this.member?.voice.split("+")[1] ?? "";
  },
  get hasVariants() {
    return this.voiceBase.startsWith("espeak:");
  },
  setVoiceBase(event) {
    const base = event.target.value;
    return this.changeMember({ voice: base.startsWith("espeak:") && this.voiceVariant ? `${base}+${this.voiceVariant}` : base });
  },
  setVoiceVariant(event) {
    return this.changeMember({ voice: event.target.value ? `${this.voiceBase}+${event.target.value}` : this.voiceBase });
  },
  hearVoice() {
    return this.hearVoiceOf(this.member.voice);
  },
  openVoices() {
    this.$dispatch("open-voices");
  },
});
