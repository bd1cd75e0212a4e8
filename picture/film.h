#pragma once
// Films and series of pictures: a day, a year at one hour, a way along saved views. Every frame is a picture as it
// would be exported: title, moment, legend. MP4 and WebM by ffmpeg, which is called as a program; a folder of PNG
// without it.

#include "picture/picture_export.h"

namespace noonward {

struct FilmFrame {
  Instant moment;
  std::optional<Camera> camera; ///< as the picture's request has it where absent
};
struct FilmRequest {
  PictureRequest picture; ///< of every frame; width and height of the film, even
  std::vector<FilmFrame> frames;
  double perSecond = 12;
};

/// Clock times of a day, both ends included.
std::vector<FilmFrame> dayFrames(const Zone& zone, Date date, double fromMinute, double toMinute, double stepMinutes);
/// The same clock time every so many days of a year.
std::vector<FilmFrame> yearFrames(const Zone& zone, int year, double minute, int everyDays);
/// From one saved view to the next, each way so many frames; moments go along where both views have one, else `moment`.
/// Errors: no such view, a view whose camera can't be read.
Expected<std::vector<FilmFrame>> viewFrames(const Project& project, const std::vector<std::string>& names,
                                            int framesEach, Instant moment);

/// The kind goes by the file's ending: .mp4, .webm; without one, or with .pictures, it is a folder for frame-0001.png
/// and so on. What was there before stays until the film is whole. Errors: no frames, odd sizes, ffmpeg absent or
/// failing (with what it said), stopped, a disc that is full.
Outcome writeFilm(const Project& project, const FilmRequest& request, const std::filesystem::path& file,
                  RunControl& control, ResultStore* store = nullptr);

} // namespace noonward
