#pragma once
// How a reading process hands a model over: records on a pipe, a letter and its fields each, closed by 'E'. Used by the
// child that runs Assimp and by the program that reads building models (ifc/); depends on nothing but the standard
// library.

#include <cstdint>
#include <string>
#include <string_view>
#include <unistd.h>
#include <vector>

namespace noonward {

class PartStream {
public:
  explicit PartStream(int fd) : fd_(fd) {}
  /// P. points: x y z each; triangles: three indices each. `role`: key of one, or empty. `transparency`: 0…1.
  void part(std::string_view name, std::string_view layer, std::string_view role, std::string_view material,
            double transparency, const std::vector<double>& points, const std::vector<std::uint32_t>& triangles) {
    put('P');
    text(name), text(layer), text(role), text(material);
    put(transparency);
    list(points), list(triangles);
    flushLong();
  }
  /// S. A space: its body; the footprint and name are made use of.
  void space(std::string_view name, const std::vector<double>& points, const std::vector<std::uint32_t>& triangles) {
    put('S');
    text(name);
    list(points), list(triangles);
    flushLong();
  }
  void note(std::string_view words) { put('N'), text(words); }
  /// G. A glazing that the file states, 0…1.
  void glazing(std::string_view name, double transmittance) { put('G'), text(name), put(transmittance); }
  void place(double latitude, double longitude, double elevation) {
    put('L'), put(latitude), put(longitude), put(elevation);
  }                                                            ///< rad, rad, m
  void north(double azimuth) { put('A'), put(azimuth); }       ///< rad, true azimuth of the file's +y
  void system(std::string_view name) { put('R'), text(name); } ///< reference system
  void metres() { put('U'); } ///< the file states its unit, and all of this is in metres
  void progress(double share) { put('%'), put(share), flush(); }                     ///< 0…1
  void cannot(std::string_view why) { put('X'), text(why.substr(0, 400)), flush(); } ///< nothing else follows
  void end() { put('E'), flush(); }
  bool good() const { return good_; }

private:
  template <class T> void put(const T& v) { bytes_.append(reinterpret_cast<const char*>(&v), sizeof v); }
  void text(std::string_view s) {
    put(std::uint64_t(s.size()));
    bytes_.append(s);
  }
  template <class T> void list(const std::vector<T>& v) {
    put(std::uint64_t(v.size()));
    bytes_.append(reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T));
  }
  void flushLong() {
    if (bytes_.size() > (1u << 20)) flush();
  }
  void flush() {
    const char* at = bytes_.data();
    for (std::size_t left = bytes_.size(); left > 0 && good_;) {
      const ssize_t n = ::write(fd_, at, left);
      if (n <= 0)
        good_ = false;
      else {
        at += n;
        left -= std::size_t(n);
      }
    }
    bytes_.clear();
  }
  int fd_;
  bool good_ = true;
  std::string bytes_;
};

} // namespace noonward
