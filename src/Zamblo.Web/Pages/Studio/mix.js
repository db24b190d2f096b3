// Puts the members of several parts into one object, getters included.
export function mix(target, ...sources) {
  for (const source of sources)
    for (const [name, member] of Object.entries(Object.getOwnPropertyDescriptors(source))) {
      // One would silently take the other's place.
      if (Object.hasOwn(target, name)) throw new Error(`Two parts of the page have a member "${name}".`);
      Object.defineProperty(target, name, member);
    }
  return target;
}
