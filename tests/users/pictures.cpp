// A figure of one's own, as a picture and as a page.
#include <tanzen/drawing.hpp>

#include <cmath>
#include <filesystem>

int main() {
  using namespace tanzen;
  LineLayer curve{.color = "", .label = "cooling"};
  for (int minute = 0; minute <= 60; ++minute) {
    curve.x.push_back(minute);
    curve.y.push_back(20 + 880 * std::exp(-0.05 * minute));
  }
  Panel panel{.title = "a kiln", .x = {.label = "minutes"}, .y = {.label = "°C"}};
  panel.layers.emplace_back(curve);
  panel.layers.emplace_back(PointLayer{.x = {0}, .y = {900}, .marker = Marker::diamond, .color = ""});
  const Figure figure{.title = "Cooling at 50 %", .caption = "made up", .panels = {panel}};
  render(figure, "cooling.png");
  try {
    Figure broken = figure;
    std::get<LineLayer>(broken.panels[0].layers[0]).y.pop_back();
    render(broken, "broken.png");
    return 1;
  } catch (const InputError&) {
    return std::filesystem::exists("cooling.png") && !std::filesystem::exists("broken.png") ? 0 : 1;
  }
}
