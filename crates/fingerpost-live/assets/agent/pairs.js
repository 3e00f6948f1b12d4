// Which members of two lists are the same.

// The longest common run takes a table of this many cells at most.
const MOST_CELLS = 250000;

/**
 * The longest common run of two lists, as pairs of positions; what both begin and end with is paired first.
 * @param {string[]} one
 * @param {string[]} other
 */
function paired(one, other) {
  let start = 0;
  while (start < one.length && start < other.length && one[start] === other[start]) start += 1;
  let end = 0;
  const room = Math.min(one.length, other.length) - start;
  while (end < room && one[one.length - 1 - end] === other[other.length - 1 - end]) end += 1;
  const pairs = Array.from({ length: start }, (_, at) => [at, at]);
  const [rows, columns] = [one.length - start - end, other.length - start - end];
  if (rows * columns > 0 && rows * columns < MOST_CELLS) {
    const table = Array.from({ length: rows + 1 }, () => new Uint16Array(columns + 1));
    for (let i = rows - 1; i >= 0; i -= 1) {
      for (let j = columns - 1; j >= 0; j -= 1) {
        const isSame = one[start + i] === other[start + j];
        table[i][j] = isSame ? table[i + 1][j + 1] + 1 : Math.max(table[i + 1][j], table[i][j + 1]);
      }
    }
    for (let [i, j] = [0, 0]; i < rows && j < columns; ) {
      if (one[start + i] === other[start + j]) pairs.push([start + i++, start + j++]);
      else if (table[i + 1][j] >= table[i][j + 1]) i += 1;
      else j += 1;
    }
  }
  for (let at = end; at > 0; at -= 1) pairs.push([one.length - at, other.length - at]);
  return pairs;
}
