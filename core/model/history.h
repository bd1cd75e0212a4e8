#pragma once
// Undo as a stack of whole projects. Each step has a name; a step that changes nothing vanishes; edits of one gesture
// (same non-empty key) become one step; memory counts only what no newer step shares.

#include "core/model/project.h"
#include <deque>

namespace noonward {

class History {
public:
  explicit History(Project start, std::size_t byteLimit = 512u << 20);
  const Project& now() const { return now_; }
  /// Makes `next` the present. `gesture` merges with the step before if that had the same non-empty gesture.
  void change(Project next, std::string name, std::string gesture = {});
  /// Ends a gesture: the next change starts a step of its own.
  void endGesture() { lastGesture_.clear(); }
  bool canUndo() const { return !undo_.empty(); }
  bool canRedo() const { return !redo_.empty(); }
  std::string undoName() const { return canUndo() ? undo_.back().name : std::string(); }
  std::string redoName() const { return canRedo() ? redo_.back().name : std::string(); }
  void undo();
  void redo();
  std::size_t steps() const { return undo_.size(); }

private:
  struct Step {
    std::string name;
    Project project; // before the step (undo) or after it (redo)
  };
  void trim();
  Project now_;
  std::deque<Step> undo_, redo_;
  std::string lastGesture_;
  std::size_t byteLimit_;
};

/// True where saving both would write the same project.
bool sameProject(const Project& a, const Project& b);
/// Rough bytes of what an element alone holds.
std::size_t elementBytes(const Element& element);

} // namespace noonward
