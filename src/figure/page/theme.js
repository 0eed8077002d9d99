// Colours of the page, by what the reader's system asks for; surfaces and series keep theirs.
const surfaceColors = ["#16213e", "#5d2a5b", "#b65a3c", "#efe0bd"];
const surfacePlaces = [0, 0.34, 0.67, 1];
const pathColor = "#1e1a16";

const themes = {
  light: { ground: "#ffffff", text: "#4a433b", axis: "#a2988d", grid: "#e8e3dc", line: pathColor },
  dark: { ground: "#191613", text: "#e6ded2", axis: "#8f857a", grid: "#35302a", line: "#f1e9dc" },
};
const wantsDark = window.matchMedia("(prefers-color-scheme: dark)");
let isOnPaper = false;
const theme = () => (wantsDark.matches && !isOnPaper ? themes.dark : themes.light);

function channels(color) {
  return [1, 3, 5].map((at) => parseInt(color.slice(at, at + 2), 16));
}

function seeThrough(color, opacity) {
  return `rgba(${channels(color).join(",")},${opacity})`;
}

// The colour at a part of the way from night blue to sand.
function surfaceColor(part) {
  const upper = Math.max(1, surfacePlaces.findIndex((place) => part <= place));
  const from = channels(surfaceColors[upper - 1]), to = channels(surfaceColors[upper]);
  const share = (part - surfacePlaces[upper - 1]) / (surfacePlaces[upper] - surfacePlaces[upper - 1]);
  return from.map((channel, k) => Math.round(channel + share * (to[k] - channel)));
}

// One colour for each of the bands between levels.
function bandColors(count) {
  return Array.from({ length: count }, (_, k) => surfaceColor(count > 1 ? k / (count - 1) : 0));
}

// What has no ground of its own must be seen on the page's.
function inkOn(color, hasLandscape) {
  if (hasLandscape) return color;
  if (color === pathColor) return theme().line;
  return theme() === themes.dark && color.startsWith("#") ? lighter(color) : color;
}

// A dark colour halfway to white, as bright as a light one is on a white ground.
function lighter(color) {
  const [red, green, blue] = channels(color);
  if (0.3 * red + 0.59 * green + 0.11 * blue > 110) return color;
  return `#${[red, green, blue].map((channel) => Math.round((channel + 235) / 2).toString(16).padStart(2, "0")).join("")}`;
}
