// Pages without anything that moves: day or night, and signing in by a passkey.
import { applyTheme } from "./api.js";
import { canUsePasskeys, showPasskey } from "./passkeys.js";

applyTheme();

const button = document.getElementById("enter-passkey");

const token = () => document.querySelector("meta[name=csrf]").content;

async function ask(handler, fields) {
  const answer = await fetch(`/enter?handler=${handler}`, { method: "POST", headers: { "X-Csrf-Token": token() }, body: new URLSearchParams(fields) });
  const said = await answer.json().catch(() => ({}));
  if (!answer.ok) throw new Error(said.error ?? "That did not work: try it again.");
  return said;
}

if (button && canUsePasskeys()) {
  button.hidden = false;
  button.addEventListener("click", async () => {
    const error = document.getElementById("enter-error");
    error.textContent = "";
    try {
      const credential = await showPasskey(await ask("Ask", {}));
      const { to } = await ask("Passkey", { credential, to: document.querySelector("[name=to]").value });
      location.href = to;
    } catch (e) {
      // Whoever closes the device's dialog has changed their mind.
      if (e.name !== "NotAllowedError") error.textContent = e.message;
    }
  });
}
