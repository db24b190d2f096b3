// The words of a line's text with what lies between them: where each word stands, the server says.
export function parts(line) {
  const result = [];
  let at = 0;
  (line.words ?? []).forEach(([, start, end, confidence], index) => {
    const from = line.spans[2 * index];
    if (from === undefined || from < 0) return;
    const to = from + line.spans[2 * index + 1];
    if (from > at) result.push({ key: `t${at}`, text: line.written.slice(at, from), word: -1 });
    result.push({ key: `w${index}`, text: line.written.slice(from, to), word: index, start, end, unsure: confidence < 0.5 });
    at = to;
  });
  if (at < line.written.length) result.push({ key: `t${at}`, text: line.written.slice(at), word: -1 });
  return result;
}
