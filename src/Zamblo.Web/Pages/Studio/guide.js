// Sound that drives the mouth and is not heard: the clean vocal of a song.
import { post, upload } from "../../front/api.js";

export async function bringGuide(panel, take, event) {
  const file = event.target.files[0];
  event.target.value = "";
  if (!file || !take) return;
  const sent = await panel.attempt(() => upload(file, file.name, () => {}));
  if (sent)
    return panel.edit(() => post(`/api/takes/${take}/guide`, { revision: panel.revision, hash: sent.hash, name: sent.name }), "The mouth follows the guide.");
}
