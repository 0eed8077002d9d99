// Numbers of a page: lists, or packed as base64 of single precision or bytes.
function bytesOf(text) {
  return Uint8Array.from(atob(text), (character) => character.charCodeAt(0));
}

function numbersOf(packed) {
  if (Array.isArray(packed)) return packed;
  return new Float32Array(bytesOf(packed.single).buffer);
}

// Layers as the rest of the page takes them: with their numbers at hand.
function unpack(figure) {
  for (const { layers } of figure.panels)
    for (const layer of layers)
      for (const name of ["x", "y", "z", "lower", "upper"]) if (layer[name]?.single) layer[name] = numbersOf(layer[name]);
  return figure;
}

const isThere = (number) => number !== null && Number.isFinite(number);

// The places of an evenly spaced axis of a grid.
function gridPlaces({ from, to, count }) {
  return Array.from({ length: count }, (_, k) => from + ((to - from) * k) / (count - 1));
}

// Text where a few tags mean something: nothing in a name does.
function plain(text) {
  return String(text).replaceAll("&", "&amp;").replaceAll("<", "&lt;").replaceAll(">", "&gt;");
}

function shortNumber(value) {
  if (value === null || value === undefined || Number.isNaN(value)) return "none";
  const size = Math.abs(value);
  return size !== 0 && (size >= 1e6 || size < 1e-4) ? value.toExponential(4) : String(Number(value.toPrecision(6)));
}

// Where a value stands among rising levels: between k and k + 1 above level k - 1, in proportion.
function placeAmong(levels, value) {
  if (!(value >= levels[0])) return Number.isNaN(value) ? NaN : 0.5;
  let low = 0, high = levels.length;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (levels[middle] <= value) low = middle;
    else high = middle;
  }
  if (low === levels.length - 1) return levels.length + 0.5;
  return low + 1 + (value - levels[low]) / (levels[low + 1] - levels[low]);
}
