#include "tanzen/problem/data_table.hpp"

#include "tanzen/base/errors.hpp"
#include "tanzen/base/text.hpp"
#include "tanzen/expression/block_tape.hpp"
#include "tanzen/expression/tape.hpp"

#include <algorithm>
#include <cassert>
#include <fmt/format.h>

namespace tanzen {
namespace {

class RowFunction final : public VectorFunction {
 public:
  RowFunction(const Expression& row, std::shared_ptr<const DataTable> table)
      : tape_(row), blocks_(row), table_(std::move(table)), parameters_(row.dimension() - table_->rows.cols()) {
    assert(parameters_ >= 1);
  }

  [[nodiscard]] Index dimension() const override { return parameters_; }
  [[nodiscard]] Index outputs() const override { return table_->rows.rows(); }
  [[nodiscard]] Derivatives derivatives() const override { return Derivatives::hessian; }
  [[nodiscard]] std::unique_ptr<FunctionWorker> worker() const override { return std::make_unique<Worker>(*this); }
  [[nodiscard]] bool is_concurrent() const override { return true; }

 private:
  class Worker final : public FunctionWorker {
   public:
    explicit Worker(const RowFunction& function)
        : function_(function), rows_(function.table_->rows), work_(function.tape_.workspace()),
          block_work_(function.blocks_.workspace()), point_(function.tape_.dimension()),
          along_(Vector::Zero(function.tape_.dimension())) {}

    double value(const Vector& x) override {
      outputs(x, scratch_);
      return scratch_[0];
    }
    void outputs(const Vector& x, Vector& outputs) override {
      function_.blocks_.evaluate_rows(x, rows_, block_work_, outputs);
    }
    void weighted_gradient(const Vector& x, const Vector& weights, Vector& gradient) override {
      gradient.setZero(x.size());
      each_row(x, [&](Index k) {
        if (weights[k] == 0) return;
        (void)function_.tape_.gradient(point_, work_, slope_);
        gradient += weights[k] * slope_.head(x.size());
      });
    }
    void jacobian(const Vector& x, Matrix& jacobian) override {
      jacobian.resize(rows_.rows(), x.size());
      each_row(x, [&](Index k) {
        (void)function_.tape_.gradient(point_, work_, slope_);
        jacobian.row(k) = slope_.head(x.size());
      });
    }
    void jacobian_times(const Vector& x, const Vector& direction, Vector& product) override {
      product.resize(rows_.rows());
      along_.head(x.size()) = direction;
      each_row(x, [&](Index k) {
        function_.tape_.jacobian_times(point_, along_, work_, slope_);
        product[k] = slope_[0];
      });
    }
    void weighted_hessian_times(const Vector& x, const Vector& weights, const Vector& direction,
                                Vector& product) override {
      along_.head(x.size()) = direction;
      product.setZero(x.size());
      each_row(x, [&](Index k) {
        const double weight = weights[k];
        if (weight == 0) return;
        function_.tape_.hessian_times(point_, std::span(&weight, 1), along_, work_, slope_);
        product += slope_.head(x.size());
      });
    }

   private:
    template <class Visit>
    void each_row(const Vector& x, Visit&& visit) {
      point_.head(x.size()) = x;
      for (Index k = 0; k < rows_.rows(); ++k) {
        point_.tail(rows_.cols()) = rows_.row(k);
        visit(k);
      }
    }

    const RowFunction& function_;
    const Matrix& rows_;
    Tape::Workspace work_;
    BlockTape::Workspace block_work_;
    Vector point_, along_, slope_;
  };

  Tape tape_;
  BlockTape blocks_;
  std::shared_ptr<const DataTable> table_;
  Index parameters_;
};

} // namespace

Index DataTable::column(std::string_view name) const {
  const auto found = std::ranges::find(columns, name);
  if (found == columns.end())
    throw InputError(fmt::format("the table has no column '{}' (it has {}){}", clipped(name, 40), joined(columns, ", "),
                                 did_you_mean(name, columns)));
  return found - columns.begin();
}

FunctionPointer make_row_function(const Expression& row, std::shared_ptr<const DataTable> table) {
  return std::make_shared<RowFunction>(row, std::move(table));
}

} // namespace tanzen
