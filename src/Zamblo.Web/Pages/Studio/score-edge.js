// The edge between stage and score: dragged, or moved by keys; where it was left, it is again.
const least = 22;
const most = 70;
const usual = 40;
const kept = "score-height";

export const scoreEdge = () => ({
  share: Number(localStorage.getItem(kept)) || usual,
  edgeDrag: false,
  setShare(share, keep = true) {
    this.share = Math.round(Math.min(most, Math.max(least, share)) * 10) / 10;
    document.querySelector(".studio").style.setProperty("--score-height", `${this.share}%`);
    if (keep) localStorage.setItem(kept, this.share);
  },
  edgeDown(event) {
    this.edgeDrag = true;
    event.target.setPointerCapture(event.pointerId);
  },
  edgeMove(event) {
    if (this.edgeDrag) this.setShare((100 * (innerHeight - event.clientY)) / innerHeight, false);
  },
  edgeUp() {
    if (this.edgeDrag) this.setShare(this.share);
    this.edgeDrag = false;
  },
  edgeUsual() {
    this.setShare(usual);
  },
  edgeHigher() {
    this.setShare(this.share + 3);
  },
  edgeLower() {
    this.setShare(this.share - 3);
  },
  get edgeText() {
    return `${Math.round(this.share)} % of the height`;
  },
});
