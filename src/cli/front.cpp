#include "arguments.hpp"
#include "commands.hpp"
#include "pictures.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/files/table_file.hpp"
#include "tanzen/files/write_file.hpp"
#include "tanzen/search/outcome.hpp"
#include "tanzen/statistics/fronts.hpp"

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>

namespace tanzen::cli {
namespace {

using Json = nlohmann::ordered_json;

struct FrontArguments {
  std::string points, objectives, reference, against, write;
  std::vector<std::string> maximized;
  bool as_json = false;
  PictureArguments pictures;
};

/// What is found of a set of points.
struct FrontFindings {
  std::vector<Index> nondominated;
  Vector ideal = {}, nadir = {}; ///< of the nondominated ones, in the user's senses
  double unevenness = 0;
  std::optional<double> hypervolume = {};
  Index outside = 0; ///< nondominated points that do not lie below the reference
  struct Against {
    Index points;
    double inverted_distance_plus, additive_epsilon;
    std::optional<double> hypervolume;
  };
  std::optional<Against> against = {};
};

class FrontReader {
 public:
  explicit FrontReader(const FrontArguments& arguments) : arguments_(arguments), table_(read_table(arguments.points)) {
    constexpr std::size_t most_objectives = 20;
    names_ = arguments.objectives.empty() ? table_.columns : split(arguments.objectives, ',');
    if (names_.size() < 2)
      throw InputError(fmt::format("{} has {}: a front has at least two", arguments.points,
                                   counted(static_cast<long long>(names_.size()), "objective")));
    if (names_.size() > most_objectives)
      throw InputError(
          fmt::format("{} has {} columns, and a front at most {} objectives: name them, as in --objectives {},{}",
                      arguments.points, names_.size(), most_objectives, names_[0], names_[1]));
    signs_ = Vector::Ones(static_cast<Index>(names_.size()));
    const DataTable named{.columns = names_};
    for (const std::string& name : arguments.maximized) signs_[named.column(name)] = -1;
    points_ = values_in(table_);
    if (points_.cols() == 0) throw InputError(fmt::format("{} has no points", arguments.points));
    if (!arguments.reference.empty()) read_reference();
  }

  [[nodiscard]] FrontFindings find() const {
    FrontFindings found{.nondominated = nondominated_points(points_)};
    const Matrix front = points_(Eigen::all, found.nondominated);
    found.ideal = in_senses(front.rowwise().minCoeff());
    found.nadir = in_senses(front.rowwise().maxCoeff());
    found.unevenness = unevenness(front);
    if (reference_) {
      found.hypervolume = hypervolume(front, *reference_);
      found.outside = ((front.colwise() - *reference_).array() >= 0).colwise().any().count();
    }
    if (arguments_.against.empty()) return found;
    const Matrix other = values_in(read_table(arguments_.against));
    if (other.cols() == 0) throw InputError(fmt::format("{} has no points", arguments_.against));
    found.against = {other.cols(), inverted_distance_plus(front, other), additive_epsilon(front, other),
                     reference_ ? std::optional(hypervolume(other, *reference_)) : std::nullopt};
    return found;
  }

  [[nodiscard]] const std::vector<std::string>& names() const { return names_; }
  [[nodiscard]] Index count() const { return points_.cols(); }
  [[nodiscard]] const DataTable& table() const { return table_; }

 private:
  /// A column a point, to be minimized.
  [[nodiscard]] Matrix values_in(const DataTable& table) const {
    Matrix values(static_cast<Index>(names_.size()), table.rows.rows());
    for (std::size_t k = 0; k < names_.size(); ++k)
      values.row(static_cast<Index>(k)) = signs_[static_cast<Index>(k)] * table.rows.col(table.column(names_[k]));
    return values;
  }
  [[nodiscard]] Vector in_senses(const Vector& values) const { return signs_.cwiseProduct(values); }

  void read_reference() {
    const Vector given = parse_point(arguments_.reference, names_, "--reference");
    reference_ = signs_.cwiseProduct(given);
    const bool covers = ((points_.colwise() - *reference_).array() < 0).colwise().all().any();
    if (covers) return;
    const Vector worst = in_senses(points_.rowwise().maxCoeff());
    throw InputError(
        fmt::format("--reference {} is worse than no point in every objective, so that nothing is covered: "
                    "give one beyond {}",
                    arguments_.reference, point_text(worst)));
  }

  const FrontArguments& arguments_;
  DataTable table_;
  std::vector<std::string> names_;
  Vector signs_;
  Matrix points_;
  std::optional<Vector> reference_;
};

std::string front_text(const FrontArguments& arguments, const FrontReader& reader, const FrontFindings& found) {
  std::string text =
      fmt::format("  {}, {} of {}: {}\n\n", std::filesystem::path(arguments.points).stem().string(),
                  counted(reader.count(), "point"), counted(static_cast<long long>(reader.names().size()), "objective"),
                  joined(reader.names(), ", "));
  text +=
      block_line("front", fmt::format("{} of {} are dominated by no other", found.nondominated.size(), reader.count()));
  text += block_line("ideal", point_text(found.ideal));
  text += block_line("nadir", point_text(found.nadir));
  if (found.hypervolume) {
    std::string outside = found.outside == 0 ? "" : fmt::format("; {} lie not below it", found.outside);
    text += block_line("hypervolume", fmt::format("{} towards ({}){}", short_number(*found.hypervolume, 10),
                                                  arguments.reference, outside));
  }
  if (std::isfinite(found.unevenness))
    text += block_line("unevenness", fmt::format("{}: the mean deviation of the gaps, in parts of their mean",
                                                 short_number(found.unevenness, 4)));
  if (found.against) {
    const auto& other = *found.against;
    text += block_line("against", fmt::format("{}, {}", std::filesystem::path(arguments.against).filename().string(),
                                              counted(other.points, "point")));
    text += block_line(
        "", fmt::format("inverted generational distance plus {}", short_number(other.inverted_distance_plus, 6)));
    text += block_line("", fmt::format("additive epsilon {}", short_number(other.additive_epsilon, 6)));
    if (other.hypervolume && *other.hypervolume > 0)
      text +=
          block_line("", fmt::format("hypervolume {}, of which {} % are covered", short_number(*other.hypervolume, 10),
                                     short_number(100 * *found.hypervolume / *other.hypervolume, 6)));
  }
  return text;
}

std::string front_json(const FrontReader& reader, const FrontFindings& found) {
  const auto list = [](const Vector& values) { return std::vector<double>(values.begin(), values.end()); };
  Json json{{"points", reader.count()},
            {"objectives", reader.names()},
            {"nondominated", found.nondominated},
            {"ideal", list(found.ideal)},
            {"nadir", list(found.nadir)},
            {"hypervolume", found.hypervolume ? Json(*found.hypervolume) : Json()},
            {"outside", found.outside},
            {"unevenness", std::isfinite(found.unevenness) ? Json(found.unevenness) : Json()},
            {"against", nullptr}};
  if (found.against) {
    const auto& other = *found.against;
    json["against"] = {{"points", other.points},
                       {"inverted_distance_plus", other.inverted_distance_plus},
                       {"additive_epsilon", other.additive_epsilon},
                       {"hypervolume", other.hypervolume ? Json(*other.hypervolume) : Json()}};
  }
  return json.dump();
}

void show_front(const Context& context, const FrontArguments& arguments) {
  if (!arguments.write.empty() && !arguments.write.ends_with(".csv"))
    throw InputError(
        fmt::format("--write makes a table: a name that ends in .csv; found '{}'", clipped(arguments.write, 60)));
  arguments.pictures.check({{"--write", arguments.write}});
  const FrontReader reader(arguments);
  const FrontFindings found = reader.find();
  context.print("{}", arguments.as_json ? front_json(reader, found) + "\n" : front_text(arguments, reader, found));
  if (!arguments.write.empty()) {
    DataTable kept{.columns = reader.table().columns, .rows = reader.table().rows(found.nondominated, Eigen::all)};
    write_file(arguments.write, table_to_csv(kept));
    if (!arguments.as_json) context.print("{}", block_line("written", arguments.write));
  }
  arguments.pictures.write(context, fmt::format("The front of {}", arguments.points), {}, arguments.as_json);
}

} // namespace

void add_front(const Command& command, Context& context) {
  auto arguments = std::make_shared<FrontArguments>();
  command.needs("points", arguments->points, "POINTS", "a table: a column an objective, a row a point");
  command.takes("--objectives", arguments->objectives, "NAMES", "the columns that are objectives: gas,breakage (all)");
  command.takes("--maximize", arguments->maximized, "NAME", "an objective of which large values are wanted");
  command.takes("--reference", arguments->reference, "POINT",
                "what the hypervolume reaches to: 11,11 or gas=11,breakage=11");
  command.takes("--against", arguments->against, "FILE", "a reference front with the same columns");
  command.takes("--write", arguments->write, "FILE", "write the nondominated rows as a table (.csv)");
  arguments->pictures.add_report_to(command);
  command.flag("--json", arguments->as_json, "one object for machines");
  command.example("tanzen front examples/glaze-points.csv --objectives gas,breakage --reference 60,70");
  command.does([arguments, &context] { show_front(context, *arguments); });
}

} // namespace tanzen::cli
