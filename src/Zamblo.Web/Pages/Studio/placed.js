// Whatever a hand can put elsewhere on the stage: the picked prop, else the picked member.
import { patch, post } from "../../front/api.js";
import { stage } from "./shared.js";

const ofProp = ({ id, name, place: { x, y, size }, box, shapes }) => ({ id, isProp: true, name, x, y, lift: -y, size, box, spans: shapes });
const ofMember = ({ id, roleName, stands }) => ({ ...stands, id, name: roleName, spans: [[stands.first, stands.count]] });

export const styleOf = (box) => Object.fromEntries(["left", "top", "width", "height"].map((k) => [k, `${box[k]}px`]));
export const sizeOf = (size) => Math.min(4, Math.max(0.25, size));
export const placeOf = ({ id, x, lift, size }) => ({ id, x, lift, size });

// How far whoever is picked has gone by a frame, in stage units.
export function walkedBy({ members }, frame, { isProp, id, x }) {
  const at = isProp ? undefined : stage.frames?.get(frame, 0)?.places?.[members.findIndex((m) => m.id === id)];
  return at === undefined ? 0 : at - x;
}

export const placed = () => ({
  get thing() {
    return this.prop ? ofProp(this.prop) : this.member ? ofMember(this.member) : null;
  },
  // Whatever it was that was moved: something else may be picked meanwhile.
  thingBy(id) {
    const prop = this.scene.props.find((p) => p.id === id);
    const member = this.scene.members.find((m) => m.id === id);
    return prop ? ofProp(prop) : member ? ofMember(member) : null;
  },
  pickThing({ prop, member }) {
    if (member) this.selectMember(member);
    else if (prop.id !== this.propId) this.pickProp(prop.id);
  },
  keepPlace({ id, isProp }, { x, lift, size }) {
    const at = { revision: this.revision, x, size };
    if (isProp) return patch(`/api/props/${id}`, { ...at, y: lift === undefined ? undefined : -lift });
    return post(`/api/scenes/${this.sceneId}/places`, { ...at, member: id, lift });
  },
});
