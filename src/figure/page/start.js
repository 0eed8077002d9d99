// The page comes to life: every place that names a figure gets it, one after the other, so that the page stays at hand.
const pageData = JSON.parse(document.getElementById("page-data").textContent);
const figureViews = [];
const choice = document.getElementById("choice") && pageData.details ? new Choice(pageData.details) : null;

// The view of a place, made when it is first shown.
function viewOf(root) {
  const there = figureViews.find((view) => view.root === root);
  if (there) return there;
  const { figure, heading } = root.dataset;
  return place(new FigureView(root, pageData.figures[Number(figure)], { heading: heading || "h1", sharedKey: Boolean(choice?.key) }));
}

// Puts a view where another may have been.
function place(view) {
  const before = figureViews.findIndex(({ root }) => root === view.root);
  figureViews.splice(before < 0 ? figureViews.length : before, before < 0 ? 0 : 1, view);
  return view;
}

// A figure that is shown when it is asked for.
function fold(root) {
  const opened = document.createElement("details"), summary = document.createElement("summary");
  summary.textContent = `What ${root.dataset.folded} looks like`;
  root.replaceWith(opened);
  opened.append(summary, root);
  opened.addEventListener("toggle", () => opened.open && viewOf(root).draw());
}

// What is drawn is no longer how the page is. The number that it gives is that of the drawing that will be.
let drawing = 0;
function outdate() {
  delete document.documentElement.dataset.ready;
  return ++drawing;
}

// Draws all figures that are shown, or draws them anew; the page says when they are there. A drawing that is outdated
// before its end leaves the rest to the next.
async function drawAll() {
  const mine = outdate();
  const isDrawn = (root) => figureViews.some((view) => view.root === root && view.drawn);
  const isShown = ({ dataset }) => dataset.figure && !dataset.folded;
  for (const root of document.querySelectorAll(".figure")) {
    if (root.hidden || !(isShown(root) || isDrawn(root))) continue;
    const view = viewOf(root);
    view.take(choice?.hidden);
    await (view.drawn ? view.redraw() : view.draw());
    if (mine !== drawing) return;
  }
  document.documentElement.dataset.ready = "yes";
}

for (const root of document.querySelectorAll("[data-folded]")) fold(root);
for (const table of document.querySelectorAll("main.report table")) makeSortable(table);
if (choice?.groups.length > 1) for (const root of document.querySelectorAll("[data-figure]")) root.hidden = !choice.shows(root);
afterResizing(outdate, drawAll);
drawAll();
