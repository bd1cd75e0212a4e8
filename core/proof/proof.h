#pragma once
// Known-answer cases that anyone can run: what is expected, what came out, how far it may be off.

#include <span>
#include <string>
#include <vector>

namespace noonward {

struct ProofCase {
  std::string name;
  std::string unit;
  double expected = 0, got = 0, allowed = 0;
  std::string source;
  double deviation() const { return got - expected; }
  bool pass() const;
};
std::vector<ProofCase> proveSun();     ///< worked example and almanac facts
std::vector<ProofCase> proveShadows(); ///< closed-form shadow times beside boxes and poles

/// All of them by subject, in the order shown; each is proved on its own.
struct ProofSubject {
  const char* name; ///< "Shadows"
  std::vector<ProofCase> (*prove)();
};
std::span<const ProofSubject> proofSubjects();
std::vector<ProofCase> proveAll();

} // namespace noonward
