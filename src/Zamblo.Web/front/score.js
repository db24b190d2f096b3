// The score on its canvas: ruler, and a staff per cast member with its voice, its lip strip and its lanes.
import { gutter, ruler, lane, laneNames } from "./score-layout.js";
import { fitText, ScoreLines } from "./score-lines.js";

export { laneNames } from "./score-layout.js";

export class Score extends ScoreLines {
  draw() {
    const { canvas, context: c } = this;
    const ratio = devicePixelRatio;
    const width = canvas.clientWidth;
    const { staves } = this;
    const height = Math.max(canvas.parentElement.clientHeight, this.under + this.heightUnder);
    if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
      canvas.width = Math.round(width * ratio);
      canvas.height = Math.round(height * ratio);
      canvas.style.height = `${height}px`;
      this.sheet.width = canvas.width;
      this.sheet.height = canvas.height;
    }
    this.width = width;
    this.height = height;
    const style = getComputedStyle(document.documentElement);
    const colors = new Map();
    this.color = (name) => colors.get(name) ?? colors.set(name, style.getPropertyValue(`--${name}`).trim()).get(name);
    c.setTransform(ratio, 0, 0, ratio, 0, 0);
    c.fillStyle = this.color("sheet");
    c.fillRect(0, 0, width, height);
    if (!this.scene) return;
    for (const staff of staves) this.drawStaff(staff);
    this.drawMeetings();
    let { under } = this;
    if (this.hasShots) {
      this.drawShots(under, this.shotsHeight);
      under += this.shotsHeight;
    }
    if (this.lights.length) {
      this.drawLights(under);
      under += lane;
    }
    this.soundLanes.forEach((sound, i) => this.drawSound(sound, under + i * lane));
    this.drawRuler();
  }

  drawRuler() {
    const { context: c } = this;
    c.fillStyle = this.color("paper");
    c.fillRect(0, 0, this.width, ruler);
    if (this.loop) {
      c.fillStyle = this.color("thread");
      c.globalAlpha = 0.18;
      c.fillRect(this.x(this.loop.start), 0, (this.loop.end - this.loop.start) * this.pixelsPerSecond, this.height);
      c.globalAlpha = 1;
    }
    c.strokeStyle = this.color("rule");
    c.beginPath();
    c.moveTo(0, ruler - 0.5);
    c.lineTo(this.width, ruler - 0.5);
    c.stroke();
    const steps = [1 / this.scene.fps, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60, 300, 600];
    const step = steps.find((s) => s * this.pixelsPerSecond >= (s < 0.1 ? 34 : 56)) ?? 1200;
    c.font = '11px "Mono"';
    c.fillStyle = this.color("soft");
    c.strokeStyle = this.color("soft");
    c.textBaseline = "middle";
    c.beginPath();
    const first = Math.max(0, Math.floor(this.scroll / step));
    for (let n = first; n * step < this.scroll + this.visibleSeconds; n++) {
      const t = n * step;
      if (t > this.scene.duration + 1e-6) break;
      const x = Math.round(this.x(t)) + 0.5;
      if (x < gutter) continue;
      c.moveTo(x, ruler - 7);
      c.lineTo(x, ruler);
      c.fillText(step < 0.1 ? `f${n}` : clock(t, step < 1), x + 3, ruler / 2 - 1);
    }
    c.stroke();
    this.drawFlags();
    c.fillStyle = this.color("paper");
    c.fillRect(0, 0, gutter, ruler);
  }

  // What the review has found, as long as it is open.
  drawFlags() {
    const { context: c } = this;
    for (const { start, end, isSerious } of this.flags ?? []) {
      c.fillStyle = this.color(isSerious ? "thread" : "amber");
      c.fillRect(this.x(start), 0, Math.max(5, (end - start) * this.pixelsPerSecond), isSerious ? 5 : 3);
    }
  }

  drawStaff(staff) {
    const { context: c } = this;
    const { member, y } = staff;
    const ink = this.ink(member);
    c.strokeStyle = this.color("rule");
    c.lineWidth = 1;
    c.beginPath();
    // Five rules, as on music paper.
    for (let i = 0; i < 5; i++) {
      const ry = Math.round(y + 13 + i * ((staff.voice - 18) / 4)) + 0.5;
      c.moveTo(gutter, ry);
      c.lineTo(this.width, ry);
    }
    c.stroke();
    c.save();
    c.beginPath();
    c.rect(gutter, y, this.width - gutter, staff.height);
    c.clip();
    for (const line of this.scene.lines) if (line.member === member.id && line.start != null) this.drawLine(line, staff, ink);
    for (const [kind, top] of Object.entries(staff.lanes))
      this.drawLane(
        this.scene.clips.filter((clip) => clip.member === member.id && clip.kind === kind && this.shows(clip)),
        y + top,
        ink,
      );
    c.restore();
    c.fillStyle = this.color("sheet");
    c.fillRect(0, y, gutter, staff.height);
    c.fillStyle = ink;
    c.fillRect(gutter - 5, y + 4, 3, staff.voice + staff.mouth - 4);
    // The triangle folds the staff.
    const middle = staff.isSlim ? y + staff.height / 2 : y + 18;
    c.beginPath();
    if (staff.isSlim)
      for (const [dx, dy] of [
        [3, -4],
        [9, 0],
        [3, 4],
      ])
        c.lineTo(dx, middle + dy);
    else
      for (const [dx, dy] of [
        [2, -3],
        [10, -3],
        [6, 3],
      ])
        c.lineTo(dx, middle + dy);
    c.fillStyle = this.color("soft");
    c.fill();
    c.fillStyle = ink;
    c.font = '700 14px "Bricolage"';
    c.textBaseline = "middle";
    c.fillText(fitText(c, member.roleName, gutter - 24), 14, middle);
    c.font = '11px "Figtree"';
    c.fillStyle = this.color("soft");
    for (const [kind, top] of Object.entries(staff.lanes)) c.fillText(laneNames[kind], 14, y + top + lane / 2);
    if (!staff.mouth) return;
    if (staff.voice > 40) c.fillText("Voice", 14, y + Math.min(38, staff.voice - 2));
    c.fillText("Mouth", 14, y + staff.voice + staff.mouth / 2 + 2);
  }

  // Of clips that overlap, the name of the earlier one ends where the later one begins.
  drawLane(clips, y, ink) {
    clips.sort((a, b) => a.start - b.start);
    clips.forEach((clip, i) => this.drawClip(clip, y, ink, clips[i + 1]?.start ?? Infinity));
  }

  // What the camera sees: those by hand in ink, those that it chooses pale.
  drawShots(y, height) {
    const { context: c } = this;
    c.font = '11px "Figtree"';
    c.textBaseline = "middle";
    c.fillStyle = this.color("soft");
    c.fillText("Camera", 14, y + height / 2);
    for (const [i, shot] of this.scene.shots.entries()) {
      const drag = shot.clip && this.drag?.clip?.id === shot.clip ? this.drag : null;
      const x0 = Math.max(gutter, this.x(shot.start + (drag && drag.edge !== "End" ? drag.dx : 0)));
      const x1 = Math.min(this.width, this.x(shot.end + (drag && drag.edge !== "Start" ? drag.dx : 0)));
      if (x1 <= x0) continue;
      const member = this.scene.members.find((m) => m.id === shot.subject && shot.framing !== "Wide");
      c.beginPath();
      c.roundRect(x0 + 1, y + 1, Math.max(2, x1 - x0 - 2), height - 4, 2);
      c.fillStyle = member ? this.ink(member) : this.color("soft");
      c.globalAlpha = shot.clip ? 0.4 : 0.14;
      c.fill();
      c.globalAlpha = 1;
      if (shot.clip) {
        c.lineWidth = this.clip === shot.clip ? 2 : 1;
        c.strokeStyle = this.clip === shot.clip ? this.color("thread") : c.fillStyle;
        c.stroke();
      }
      const taken = height > lane ? this.shotPictures.draw(c, i, x0 + 3, y + 3, x1 - x0 - 6, height - 8) : 0;
      c.fillStyle = this.color("ink");
      const name = member && shot.framing !== "Two" ? `${shot.framing} ${member.roleName}` : shot.framing;
      const text = fitText(c, name, x1 - x0 - 10 - taken);
      if (text.length > 2 || text === name) c.fillText(text, x0 + 5 + taken, y + height / 2);
    }
  }

  // A wedge while a light comes, and a band as long as it stays.
  drawLights(y) {
    const { context: c, lights } = this;
    c.font = '11px "Figtree"';
    c.textBaseline = "middle";
    c.fillStyle = this.color("soft");
    c.fillText("Light", 14, y + lane / 2);
    c.save();
    c.beginPath();
    c.rect(gutter, y, this.width - gutter, lane);
    c.clip();
    lights.forEach((clip, i) => {
      const drag = this.drag?.clip?.id === clip.id ? this.drag : null;
      const x0 = this.x(clip.start + (drag && drag.edge !== "End" ? drag.dx : 0));
      const x1 = Math.max(x0 + 4, this.x(clip.end + (drag?.dx ?? 0)));
      const until = Math.max(x1, this.x(lights[i + 1]?.start ?? this.scene.duration));
      const isPicked = this.clip === clip.id || this.clips.has(clip.id);
      c.beginPath();
      c.moveTo(x0, y + lane - 3);
      c.lineTo(x1, y + 1);
      c.lineTo(until - 1, y + 1);
      c.lineTo(until - 1, y + lane - 3);
      c.closePath();
      c.fillStyle = this.color("amber");
      c.globalAlpha = 0.28;
      c.fill();
      c.globalAlpha = 1;
      c.lineWidth = isPicked ? 2 : 1;
      c.strokeStyle = isPicked ? this.color("thread") : this.color("amber");
      c.stroke();
      c.fillStyle = this.color("ink");
      const left = Math.max(x1, gutter) + 4;
      const text = fitText(c, clip.title.replace("Light: ", ""), until - left - 4);
      if (text.length > 2) c.fillText(text, left, y + lane / 2);
    });
    c.restore();
  }

  drawSound(sound, y) {
    const { context: c } = this;
    const dx = this.drag?.acting === "sound" && this.drag.sound.id === sound.id ? this.drag.dx : 0;
    const x0 = Math.max(gutter, this.x(sound.start + dx));
    const x1 = Math.min(this.width, this.x(sound.end + dx));
    c.font = '11px "Figtree"';
    c.textBaseline = "middle";
    c.fillStyle = this.color("soft");
    c.fillText(fitText(c, sound.kind, gutter - 24), 12, y + lane / 2);
    if (x1 <= x0) return;
    c.beginPath();
    c.roundRect(x0, y + 1, Math.max(3, x1 - x0), lane - 4, 3);
    c.globalAlpha = 0.18;
    c.fill();
    c.globalAlpha = 1;
    c.lineWidth = 1;
    c.strokeStyle = this.color("soft");
    c.setLineDash(sound.loops ? [6, 3] : []);
    c.stroke();
    c.setLineDash([]);
    c.fillStyle = this.color("ink");
    if (x1 - x0 > 30) c.fillText(fitText(c, sound.name, x1 - x0 - 12), x0 + 6, y + lane / 2);
  }

  // A mood is a band that swells and fades; a gesture a box with a mark where its stroke falls.
  drawClip(clip, y, ink, next) {
    const { context: c } = this;
    const drag = this.drag?.acting === "clip" && this.drag.clip.id === clip.id ? this.drag : null;
    const x0 = this.x(clip.start + (drag && drag.edge !== "End" ? drag.dx : 0));
    const x1 = this.x(clip.end + (drag && drag.edge !== "Start" ? drag.dx : 0));
    if (x1 < gutter || x0 > this.width) return;
    const height = lane - 3;
    const isPicked = this.clip === clip.id || this.clips.has(clip.id);
    c.beginPath();
    if (clip.kind === "mood") {
      const slope = Math.min((clip.ease / 2) * this.pixelsPerSecond, (x1 - x0) / 2);
      c.moveTo(x0, y + height);
      c.lineTo(x0 + slope, y);
      c.lineTo(x1 - slope, y);
      c.lineTo(x1, y + height);
      c.closePath();
    } else if (clip.kind === "walk") {
      // An arrow to where it leads.
      const tip = Math.min(6, (x1 - x0) / 3);
      c.moveTo(x0, y + 2);
      c.lineTo(x1 - tip, y + 2);
      c.lineTo(x1, y + height / 2);
      c.lineTo(x1 - tip, y + height - 2);
      c.lineTo(x0, y + height - 2);
      c.closePath();
    } else c.roundRect(x0, y, Math.max(3, x1 - x0), height, 4);
    c.fillStyle = ink;
    c.globalAlpha = clip.kind === "mood" ? 0.1 + 0.3 * clip.strength : 0.12;
    c.fill();
    c.globalAlpha = 1;
    c.lineWidth = isPicked ? 2 : 1;
    c.strokeStyle = isPicked ? this.color("thread") : ink;
    c.stroke();
    c.font = `${clip.kind === "mood" ? "italic " : ""}11px "Figtree"`;
    c.fillStyle = this.color("ink");
    c.textBaseline = "middle";
    const left = Math.max(x0, gutter) + 7;
    const text = fitText(c, clip.title, Math.min(x1, this.x(next)) - left - 4);
    if (text.length > 2 || text === clip.title) c.fillText(text, left, y + height / 2 + 0.5);
  }

  drawPlayhead() {
    const c = this.front;
    c.setTransform(devicePixelRatio, 0, 0, devicePixelRatio, 0, 0);
    const x = Math.round(this.x(this.time)) + 0.5;
    if (x < gutter) return;
    c.strokeStyle = c.fillStyle = this.color("thread");
    c.lineWidth = 1.5;
    c.beginPath();
    c.moveTo(x, 8);
    c.lineTo(x, this.height);
    c.stroke();
    c.beginPath();
    c.arc(x, 8, 4.5, 0, 7);
    c.fill();
  }
}

export function clock(t, tenths = false) {
  const m = Math.floor(t / 60);
  const s = t - m * 60;
  return tenths ? `${m}:${s.toFixed(1).padStart(4, "0")}` : `${m}:${String(Math.round(s)).padStart(2, "0")}`;
}
