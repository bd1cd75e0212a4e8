#pragma once
// Lists in a sheet show the one looked at, or the first; edits go to it in a copy of the project.

#include "app/state/document.h"

namespace noonward {

/// The one looked at, or the first; null where the list is empty.
template <class T, class I> const T* lookedAt(const std::vector<T>& list, I id) {
  for (const T& x : list)
    if (x.id == id) return &x;
  return list.empty() ? nullptr : &list.front();
}
/// Changes the one looked at in a copy of the project.
template <class T, class I>
void editLookedAt(Document& document, std::vector<T> Design::*list, I id, const QString& name,
                  const std::function<void(T&)>& change) {
  Project p = document.project();
  const T* now = lookedAt(p.*list, id);
  if (!now) return;
  change((p.*list)[std::size_t(now - (p.*list).data())]);
  document.change(std::move(p), name);
}

} // namespace noonward
