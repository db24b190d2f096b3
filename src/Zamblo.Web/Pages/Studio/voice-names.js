// Names of voices as people read them.
export const variants = {
  "": "as it is",
  ...Object.fromEntries([1, 2, 3, 4, 5, 6, 7, 8].map((n) => [`m${n}`, `man ${n}`])),
  ...Object.fromEntries([1, 2, 3, 4, 5].map((n) => [`f${n}`, `woman ${n}`])),
  klatt: "machine 1",
  klatt2: "machine 2",
  klatt3: "machine 3",
  klatt4: "machine 4",
  croak: "croaking",
  whisper: "whispering",
};

export function voiceName(voices, key) {
  const [base, variant] = key.split("+");
  const name = voices.find((v) => v.key === base)?.name ?? base.replace(/^\w+:/, "");
  return variant ? `${name}, ${variants[variant] ?? variant}` : name;
}
