#include "tanzen/problem/data_table.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/block_tape.hpp"
#include "tanzen/expression/tape.hpp"

#include <algorithm>
#include <cassert>
#include <fmt/format.h>
#include <type_traits>

namespace tanzen {
namespace {

/// The k-th numbers of `count` rows from `first` on, where `all` has `each` a row.
template <class Number>
auto of_rows(Number* all, Index each, Index first, Index count, Index k) {
  using Numbers = std::conditional_t<std::is_const_v<Number>, const Eigen::ArrayXd, Eigen::ArrayXd>;
  return Eigen::Map<Numbers, 0, Eigen::InnerStride<>>(all + first * each + k, count, Eigen::InnerStride<>(each));
}

class RowFunction final : public VectorFunction {
 public:
  RowFunction(const Expressions& rows, std::shared_ptr<const DataTable> table)
      : table_(std::move(table)), each_(rows.size()), parameters_(rows.dimension() - table_->rows.cols()),
        tape_(rows.graph(), rows.roots()), blocks_(rows.graph(), rows.roots(), parameters_) {
    assert(parameters_ >= 1);
  }

  [[nodiscard]] Index dimension() const override { return parameters_; }
  [[nodiscard]] Index outputs() const override { return table_->rows.rows() * each_; }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::hessian; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker(const Waiting& /*waiting*/) const override {
    return std::make_unique<Worker>(*this);
  }
  [[nodiscard]] bool is_concurrent() const override { return true; }
  [[nodiscard]] Index rows() const override { return table_->rows.rows(); }

 private:
  using LaneWeights = Eigen::Array<double, Eigen::Dynamic, BlockTape::width, Eigen::RowMajor>;

  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const RowFunction& function)
        : function_(function), rows_(function.table_->rows), each_(function.each_), work_(function.tape_.workspace()),
          block_work_(function.blocks_.workspace()), weights_(LaneWeights::Zero(each_, BlockTape::width)),
          point_(function.tape_.dimension()), along_(Vector::Zero(function.tape_.dimension())) {}

    double value(const Vector& x) override {
      outputs(x, scratch_);
      return scratch_[0];
    }
    void outputs(const Vector& x, Vector& outputs) override { fill_outputs(x, rows_, outputs); }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      add_up(x, rows_, weights, gradient);
    }
    void row_outputs(const Vector& x, std::span<const Index> rows, Vector& outputs) override {
      gather(rows);
      fill_outputs(x, gathered_, outputs);
    }
    void row_weighted_gradient(const Vector& x, std::span<const Index> rows, const Vector& weights,
                               Vector& gradient) override {
      gather(rows);
      add_up(x, gathered_, weights, gradient);
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      jacobian.resize(function_.outputs(), x.size());
      fill_jacobian(x, 0, rows_.rows(), jacobian);
    }
    void visit_jacobian(const Vector& x, const JacobianVisitor& visit) override {
      constexpr Index at_once = 8 * BlockTape::width; // stays in the nearer caches
      for (Index first = 0; first < rows_.rows(); first += at_once) {
        const Index count = std::min(at_once, rows_.rows() - first);
        shown_.resize(count * each_, x.size());
        values_.resize(count * each_);
        fill_jacobian(x, first, count, shown_, &values_);
        visit(first * each_, values_, shown_);
      }
    }
    void jacobian_times(const Vector& x, const Vector& direction, Vector& product) override {
      product.resize(function_.outputs());
      along_.head(x.size()) = direction;
      each_row(x, [&](Index r) {
        function_.tape_.jacobian_times(point_, along_, work_, slope_);
        product.segment(r * each_, each_) = slope_;
      });
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      along_.head(x.size()) = direction;
      product.setZero(x.size());
      each_row(x, [&](Index r) {
        const auto own = weights.segment(r * each_, each_);
        if (own.isZero(0)) return;
        function_.tape_.hessian_times(point_, std::span(own.data(), static_cast<std::size_t>(each_)), along_, work_,
                                      slope_);
        product += slope_.head(x.size());
      });
    }

   private:
    [[nodiscard]] const BlockTape& blocks() const { return function_.blocks_; }
    void gather(std::span<const Index> rows) {
      gathered_.resize(static_cast<Index>(rows.size()), rows_.cols());
      for (std::size_t k = 0; k < rows.size(); ++k) gathered_.row(static_cast<Index>(k)) = rows_.row(rows[k]);
    }
    void fill_outputs(const Vector& x, const Matrix& data, Vector& outputs) {
      outputs.resize(data.rows() * each_);
      each_block(x, data, 0, data.rows(), [&](Index first, Index count) {
        for (Index k = 0; k < each_; ++k)
          of_rows(outputs.data(), each_, first, count, k) = blocks().output(k, block_work_).head(count);
      });
    }
    void add_up(const Vector& x, const Matrix& data, const Vector& weights, Vector& gradient) {
      gradient.setZero(x.size());
      each_block(x, data, 0, data.rows(), [&](Index first, Index count) {
        weights_.setZero();
        for (Index k = 0; k < each_; ++k)
          weights_.row(k).head(count) = of_rows(weights.data(), each_, first, count, k).transpose();
        blocks().sweep_back(weights_, block_work_);
        for (Index i = 0; i < x.size(); ++i) gradient[i] += blocks().slope(i, block_work_).head(count).sum();
      });
    }
    /// Visits blocks that have been swept forwards, from row `from` of the data on.
    template <class Visit>
    void each_block(const Vector& x, const Matrix& data, Index from, Index rows, Visit&& visit) {
      for (Index first = from; first < from + rows; first += BlockTape::width) {
        const Index count = std::min(BlockTape::width, from + rows - first);
        blocks().sweep_rows(x, data, first, count, block_work_);
        visit(first, count);
      }
    }
    void fill_jacobian(const Vector& x, Index from, Index rows, Matrix& jacobian, Vector* values = nullptr) {
      each_block(x, rows_, from, rows, [&](Index first, Index count) {
        for (Index k = 0; k < each_; ++k) {
          if (values != nullptr)
            of_rows(values->data(), each_, first - from, count, k) = blocks().output(k, block_work_).head(count);
          weights_.setZero();
          weights_.row(k).setOnes();
          blocks().sweep_back(weights_, block_work_);
          for (Index i = 0; i < x.size(); ++i)
            of_rows(jacobian.col(i).data(), each_, first - from, count, k) = blocks().slope(i, block_work_).head(count);
        }
      });
    }
    template <class Visit>
    void each_row(const Vector& x, Visit&& visit) {
      point_.head(x.size()) = x;
      for (Index r = 0; r < rows_.rows(); ++r) {
        point_.tail(rows_.cols()) = rows_.row(r);
        visit(r);
      }
    }

    const RowFunction& function_;
    const Matrix& rows_;
    Index each_;
    Tape::Workspace work_;
    BlockTape::Workspace block_work_;
    LaneWeights weights_;
    Matrix shown_, gathered_;
    Vector values_;
    Vector point_, along_, slope_;
  };

  std::shared_ptr<const DataTable> table_;
  Index each_; ///< residuals a row
  Index parameters_;
  Tape tape_;
  BlockTape blocks_;
};

} // namespace

Index DataTable::column(std::string_view name) const {
  const auto found = std::ranges::find(columns, name);
  if (found == columns.end())
    throw InputError(fmt::format("the table has no column '{}' (it has {}){}", clipped(name, 40), joined(columns, ", "),
                                 did_you_mean(name, columns)));
  return found - columns.begin();
}

FunctionPointer make_row_function(const Expressions& rows, std::shared_ptr<const DataTable> table) {
  return std::make_shared<RowFunction>(rows, std::move(table));
}

} // namespace tanzen
