// What the command writes for other programs, read by programs of others.
import assert from "node:assert/strict";
import { execFileSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { dirname, join } from "node:path";
import { after, before, test } from "node:test";
import { fileURLToPath } from "node:url";
import validator from "gltf-validator";
import vtt from "webvtt-parser";

const root = join(dirname(fileURLToPath(import.meta.url)), "..", "..");
const folder = mkdtempSync(join(tmpdir(), "zamblo-out-"));
const play = `MARO
(laughs) The oven is hot, & the bread <sleeps>.

BUBB
I am hungry, and I have been hungry since three in the morning, which nobody here seems to mind.
`;
before(() => {
  writeFileSync(join(folder, "play.txt"), play);
  const outputs = ["glb", "vtt", "otio"].flatMap((ending) => ["-o", join(folder, `play.${ending}`)]);
  const cli = join(root, "src", "Zamblo.Cli", "bin", "Release", "net10.0", "Zamblo.Cli.dll");
  const film = (...more) => execFileSync("dotnet", [cli, "film", join(folder, "play.txt"), ...more], { stdio: ["ignore", "ignore", "ignore"] });
  film("--camera", "calm", "--caption-sounds", ...outputs);
  for (const names of ["vrm", "mpeg4"]) film("--face-names", names, "-o", join(folder, `${names}.glb`));
});
after(() => rmSync(folder, { recursive: true, force: true }));

test("the Khronos validator finds nothing wrong with the acting as glTF, by any names", async () => {
  for (const name of ["play", "vrm", "mpeg4"]) {
    const file = readFileSync(join(folder, `${name}.glb`));
    const report = await validator.validateBytes(new Uint8Array(file));
    assert.deepEqual(
      report.issues.messages.filter((m) => m.severity < 2).map((m) => `${m.code} ${m.pointer}`),
      [],
    );
    assert.equal(report.info.animationCount, 1);
    assert.equal(report.info.hasMorphTargets, true);
    // A binary glTF begins with twelve bytes, then the length and the kind of its JSON.
    const { targetNames } = JSON.parse(file.subarray(20, 20 + file.readUInt32LE(12)).toString("utf8")).meshes[0].extras;
    assert.equal(targetNames.includes("open_jaw"), name === "mpeg4");
    assert.equal(targetNames.includes("jaw"), name === "play");
    assert.equal(targetNames.includes("blinkLeft"), name !== "mpeg4");
  }
});

test("a parser of the W3C community reads the captions: speakers, times in order, what is marked up stays text", () => {
  const { cues, errors } = new vtt.WebVTTParser().parse(readFileSync(join(folder, "play.vtt"), "utf8"), "subtitles");
  assert.deepEqual(errors, []);
  assert.ok(cues.length >= 3);
  cues.forEach((cue, i) => assert.ok(cue.endTime > cue.startTime && (i === 0 || cue.startTime >= cues[i - 1].startTime)));
  assert.equal(cues[0].tree.children[0].type, "object");
  assert.equal(cues[0].tree.children[0].name, "v");
  const text = (node) => (node.type === "text" ? node.value : node.children.map(text).join(""));
  // Outside of a browser this parser leaves the semicolon of a character reference.
  assert.equal(text(cues[0].tree).replaceAll(";", "").replace("\n", " "), "[laughs] The oven is hot, & the bread <sleeps>.");
  // Each below whoever says it: Maro stands at the left, Bubb at the right.
  assert.ok(cues[0].textPosition < 50 && cues.at(-1).textPosition > 50, `${cues[0].textPosition} ${cues.at(-1).textPosition}`);
  assert.ok(cues.every((cue) => text(cue.tree).split("\n").length <= 2));
});

test("the timeline covers the film without a hole", () => {
  const { tracks } = JSON.parse(readFileSync(join(folder, "play.otio"), "utf8"));
  const [shots, ...voices] = tracks.children;
  assert.equal(shots.kind, "Video");
  assert.deepEqual(
    voices.map((v) => v.name),
    ["Maro", "Bubb"],
  );
  const [first] = shots.children;
  const frames = shots.children.reduce((sum, c) => sum + c.source_range.duration.value, 0);
  assert.equal(frames, first.media_references.DEFAULT_MEDIA.available_range.duration.value);
});
