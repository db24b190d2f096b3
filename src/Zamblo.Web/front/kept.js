// What is being recorded is written down in the browser as it comes, so that a closed tab, a crash or a server that has gone away loses nothing.
const request = (r) =>
  new Promise((resolve, reject) => {
    r.onsuccess = () => resolve(r.result);
    r.onerror = () => reject(r.error);
  });

let opened;
function open() {
  opened ??= new Promise((resolve, reject) => {
    const r = indexedDB.open("zamblo", 1);
    r.onupgradeneeded = () => {
      r.result.createObjectStore("recordings", { keyPath: "id", autoIncrement: true });
      r.result.createObjectStore("pieces", { keyPath: ["recording", "number"] });
    };
    r.onsuccess = () => resolve(r.result);
    r.onerror = () => reject(r.error);
  });
  return opened;
}
async function stores(mode, ...names) {
  const t = (await open()).transaction(names, mode);
  return names.map((n) => t.objectStore(n));
}
const piecesOf = (id) => IDBKeyRange.bound([id, 0], [id, Infinity]);

// about: whose it is and what for, as the booth needs it to go on.
export async function begin(about) {
  const [recordings] = await stores("readwrite", "recordings");
  return request(recordings.add({ ...about, begun: Date.now(), touched: Date.now(), seconds: 0 }));
}

export async function add(id, number, data, seconds) {
  const bytes = await data.arrayBuffer();
  const [recordings, pieces] = await stores("readwrite", "recordings", "pieces");
  pieces.put({ recording: id, number, bytes });
  const about = await request(recordings.get(id));
  if (about) await request(recordings.put({ ...about, type: data.type || about.type, seconds, touched: Date.now() }));
}

export async function load(id) {
  const [recordings, pieces] = await stores("readonly", "recordings", "pieces");
  const about = await request(recordings.get(id));
  const list = await request(pieces.getAll(piecesOf(id)));
  return new Blob(
    list.map((p) => p.bytes),
    { type: about?.type ?? "audio/webm" },
  );
}

export async function drop(id) {
  const [recordings, pieces] = await stores("readwrite", "recordings", "pieces");
  pieces.delete(piecesOf(id));
  await request(recordings.delete(id));
}

// Recordings of a production that nobody has taken or thrown away; what another tab is recording right now is not one.
export async function leftOver(production) {
  const [recordings] = await stores("readonly", "recordings");
  return (await request(recordings.getAll())).filter((r) => r.production === production && r.seconds > 0 && Date.now() - r.touched > 4000);
}
