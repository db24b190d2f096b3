// The words of a line's text with what lies between them: where each word and each direction stands, the server says.
export function parts(line) {
  const result = [];
  let at = 0;
  // Punctuation and blanks up to a place, and the directions in it.
  const between = (to) => {
    for (let i = 0; i < line.directions.length; i += 2) {
      const from = line.directions[i];
      const end = from + line.directions[i + 1];
      if (from < at || end > to) continue;
      if (from > at) result.push({ key: `t${at}`, text: line.written.slice(at, from), word: -1 });
      result.push({ key: `d${from}`, text: line.written.slice(from, end), word: -1, isDirection: true });
      at = end;
    }
    if (to > at) result.push({ key: `t${at}`, text: line.written.slice(at, to), word: -1 });
    at = to;
  };
  (line.words ?? []).forEach(([, start, end, confidence], index) => {
    const from = line.spans[2 * index];
    if (from === undefined || from < at) return;
    const to = from + line.spans[2 * index + 1];
    between(from);
    result.push({ key: `w${index}`, text: line.written.slice(from, to), word: index, start, end, unsure: confidence < 0.5 });
    at = to;
  });
  between(line.written.length);
  return result;
}
