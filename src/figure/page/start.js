// The page comes to life: every place that names a figure gets it, one after the other, so that the page stays at hand.
const pageData = JSON.parse(document.getElementById("page-data").textContent);
const figureViews = [];

async function start() {
  for (const root of document.querySelectorAll("[data-figure]"))
    figureViews.push(new FigureView(root, pageData.figures[Number(root.dataset.figure)], { heading: root.dataset.heading || "h1" }));
  for (const view of figureViews) await view.draw();
  document.documentElement.dataset.ready = "yes";
}

afterResizing(() => figureViews.forEach((view) => view.redraw()));
start();
