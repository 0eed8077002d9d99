#include "record_json.hpp"

#include "tanzen/base/errors.hpp"

namespace tanzen {

Json front_to_json(const Matrix& front) {
  Json list = Json::array();
  for (Index k = 0; k < front.cols(); ++k) {
    const Vector point = front.col(k);
    list.push_back(std::vector<double>(point.begin(), point.end()));
  }
  return list;
}

Matrix front_from_json(const Json& json) {
  Matrix front;
  for (const Json& each : json) {
    const auto point = each.get<std::vector<double>>();
    const auto size = static_cast<Index>(point.size());
    if (front.cols() > 0 && front.rows() != size) throw InputError("the points of a front have different lengths");
    front.conservativeResize(size, front.cols() + 1);
    front.col(front.cols() - 1) = Eigen::Map<const Vector>(point.data(), size);
  }
  return front;
}

} // namespace tanzen
