#include "tanzen/statistics/distributions.hpp"

#include <boost/math/distributions/chi_squared.hpp>
#include <boost/math/distributions/fisher_f.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>

namespace tanzen {

double normal_quantile(double part) {
  return boost::math::quantile(boost::math::normal(), part);
}
double student_quantile(double degrees, double part) {
  return boost::math::quantile(boost::math::students_t(degrees), part);
}
double fisher_quantile(double above, double below, double part) {
  return boost::math::quantile(boost::math::fisher_f(above, below), part);
}
double fisher_tail(double above, double below, double ratio) {
  return boost::math::cdf(boost::math::complement(boost::math::fisher_f(above, below), ratio));
}
double chi_squared_tail(double degrees, double value) {
  return boost::math::cdf(boost::math::complement(boost::math::chi_squared(degrees), value));
}

} // namespace tanzen
