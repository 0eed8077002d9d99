// Grids of colours, drawn once and laid under the axes as images.
function imageOf(layer, paint, width, height) {
  const canvas = document.createElement("canvas");
  canvas.width = width;
  canvas.height = height;
  const context = canvas.getContext("2d");
  const image = context.createImageData(width, height);
  paint(image.data);
  context.putImageData(image, 0, 0);
  const across = (layer.x.to - layer.x.from) / (layer.x.count - 1), up = (layer.y.to - layer.y.from) / (layer.y.count - 1);
  return {
    source: canvas.toDataURL(), xref: "x", yref: "y", xanchor: "left", yanchor: "top", sizing: "stretch", layer: "below",
    x: layer.x.from - across / 2, y: layer.y.to + up / 2,
    sizex: layer.x.to - layer.x.from + across, sizey: layer.y.to - layer.y.from + up,
  };
}

// Bands of a field, their borders as sharp as the picture's points; empty where there is no value.
function fieldImage(layer) {
  const values = numbersOf(layer.values), columns = layer.x.count, rows = layer.y.count;
  const places = Float32Array.from(values, (value) => placeAmong(layer.levels, value));
  const colors = bandColors(layer.levels.length + 1);
  const finer = Math.max(1, Math.floor(640 / Math.max(columns, rows)));
  const width = columns * finer, height = rows * finer;
  return imageOf(layer, (pixels) => {
    for (let i = 0; i < height; ++i) {
      const v = Math.min(rows - 1, Math.max(0, (i + 0.5) / finer - 0.5)), row = Math.min(rows - 2, Math.floor(v));
      for (let j = 0; j < width; ++j) {
        const u = Math.min(columns - 1, Math.max(0, (j + 0.5) / finer - 0.5)), column = Math.min(columns - 2, Math.floor(u));
        const a = u - column, b = v - row, at = row * columns + column;
        const place = layer.lines
          ? (1 - b) * ((1 - a) * places[at] + a * places[at + 1]) + b * ((1 - a) * places[at + columns] + a * places[at + columns + 1])
          : places[Math.round(v) * columns + Math.round(u)];
        if (Number.isNaN(place)) continue;
        const color = colors[Math.min(colors.length - 1, Math.floor(place))];
        pixels.set([...color, 255], 4 * ((height - 1 - i) * width + j));
      }
    }
  }, width, height);
}

function pixelImage(layer) {
  const colors = bytesOf(layer.colors), width = layer.x.count, height = layer.y.count;
  return imageOf(layer, (pixels) => {
    for (let i = 0; i < height; ++i)
      for (let j = 0; j < width; ++j) {
        const from = 3 * (i * width + j);
        pixels.set([colors[from], colors[from + 1], colors[from + 2], 255], 4 * ((height - 1 - i) * width + j));
      }
  }, width, height);
}

function veilImage(layer) {
  const covered = bytesOf(layer.covered), width = layer.x.count, height = layer.y.count;
  return imageOf(layer, (pixels) => {
    for (let i = 0; i < height; ++i)
      for (let j = 0; j < width; ++j)
        if (covered[i * width + j]) pixels.set([232, 229, 224, 150], 4 * ((height - 1 - i) * width + j));
  }, width, height);
}

// The value of a field at a place, between the grid's points in proportion.
function fieldValue(layer, x, y) {
  const u = ((x - layer.x.from) / (layer.x.to - layer.x.from)) * (layer.x.count - 1);
  const v = ((y - layer.y.from) / (layer.y.to - layer.y.from)) * (layer.y.count - 1);
  if (!(u >= 0 && v >= 0 && u <= layer.x.count - 1 && v <= layer.y.count - 1)) return null;
  const column = Math.min(layer.x.count - 2, Math.floor(u)), row = Math.min(layer.y.count - 2, Math.floor(v));
  const a = u - column, b = v - row, at = row * layer.x.count + column, n = layer.x.count;
  layer.decoded ??= numbersOf(layer.values);
  const value = layer.decoded;
  return (1 - b) * ((1 - a) * value[at] + a * value[at + 1]) + b * ((1 - a) * value[at + n] + a * value[at + n + 1]);
}
