#include "tanzen/files/write_file.hpp"

#include "tanzen/base/errors.hpp"

#include <cerrno>
#include <cstdio>
#include <cstring>
#include <fmt/format.h>
#include <memory>
#include <unistd.h>

namespace tanzen {
namespace {

struct CloseFile {
  void operator()(std::FILE* file) const { std::fclose(file); }
};
using OpenFile = std::unique_ptr<std::FILE, CloseFile>;

[[noreturn]] void fail(const char* what, const std::filesystem::path& path, int error) {
  throw FileError(fmt::format("cannot {} {}: {}", what, path.string(), std::strerror(error)));
}

} // namespace

std::filesystem::path temporary_beside(const std::filesystem::path& path) {
  auto name = path.stem();
  name += fmt::format(".{}.part", getpid());
  name += path.extension();
  return path.parent_path() / name;
}

void move_into_place(const std::filesystem::path& temporary, const std::filesystem::path& path) {
  std::error_code error;
  std::filesystem::rename(temporary, path, error);
  if (!error) return;
  std::error_code ignored;
  std::filesystem::remove(temporary, ignored);
  fail("write", path, error.value());
}

FileWriter::FileWriter(std::filesystem::path path)
    : path_(std::move(path)), temporary_(temporary_beside(path_)), file_(std::fopen(temporary_.c_str(), "wb")) {
  if (!file_) fail("write", path_, errno);
}

FileWriter::~FileWriter() {
  if (!file_) return;
  file_.reset();
  std::error_code ignored;
  std::filesystem::remove(temporary_, ignored);
}

void FileWriter::add(std::string_view text) {
  if (std::fwrite(text.data(), 1, text.size(), file_.get()) != text.size()) fail("write", path_, errno);
}

void FileWriter::finish() {
  if (std::fflush(file_.get()) != 0 || fsync(fileno(file_.get())) != 0) fail("write", path_, errno);
  file_.reset();
  move_into_place(temporary_, path_);
}

void write_file(const std::filesystem::path& path, std::string_view content) {
  FileWriter file(path);
  file.add(content);
  file.finish();
}

std::string read_file(const std::filesystem::path& path) {
  if (std::filesystem::is_directory(path))
    throw FileError(fmt::format("cannot read {}: it is a folder", path.string()));
  OpenFile file(std::fopen(path.c_str(), "rb"));
  if (!file) fail("read", path, errno);
  std::string content;
  std::error_code unknown; // of a pipe
  if (const auto size = std::filesystem::file_size(path, unknown); !unknown) content.reserve(size);
  char block[1 << 16];
  for (std::size_t size = 0; (size = std::fread(block, 1, sizeof block, file.get())) > 0;) content.append(block, size);
  if (std::ferror(file.get()) != 0) fail("read", path, errno);
  return content;
}

} // namespace tanzen
