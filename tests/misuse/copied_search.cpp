// refused: use of deleted function
#include <tanzen/search/search.hpp>

tanzen::Search taken(tanzen::Search& search) {
#ifdef MISUSE
  return search; // two owners of one coroutine
#else
  return std::move(search);
#endif
}

int main() {}
