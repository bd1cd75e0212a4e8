#include "core/files/results/result_store.h"
#include "core/base/json_difference.h"
#include "core/files/project/project_file.h"
#include "core/files/results/sqlite.h"
#include "core/studies/energy/energy_year.h"
#include "core/studies/glare_year.h"
#include <algorithm>
#include <chrono>
#include <cstring>
#include <thread>

namespace noonward {

namespace {

constexpr const char* schema = "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL;"
                               "CREATE TABLE IF NOT EXISTS result (key TEXT PRIMARY KEY, kind TEXT NOT NULL, name TEXT,"
                               " asked TEXT, at TEXT, seconds REAL, body BLOB NOT NULL, digest TEXT NOT NULL);"
                               "CREATE TABLE IF NOT EXISTS run (number INTEGER PRIMARY KEY AUTOINCREMENT, key TEXT NOT "
                               "NULL, study TEXT NOT NULL, name TEXT,"
                               " option TEXT, asked TEXT, at TEXT, seconds REAL, state TEXT, input TEXT);"
                               "CREATE TABLE IF NOT EXISTS input (digest TEXT PRIMARY KEY, text TEXT NOT NULL);";

constexpr const char *sunHoursKind = "sun-hours 1", *lightKind = "light 4", *yearKind = "year 2";

/// Body: counts and plain arrays, little-endian; its digest stands beside it.
template <class T> void put(std::string& out, const T& v) {
  out.append(reinterpret_cast<const char*>(&v), sizeof v);
}
template <class T> void putAll(std::string& out, const std::vector<T>& v) {
  put(out, std::uint64_t(v.size()));
  out.append(reinterpret_cast<const char*>(v.data()), v.size() * sizeof(T));
}
struct Taker {
  std::string_view in;
  bool sound = true;
  template <class T> void take(T& v) {
    if (!(sound = sound && in.size() >= sizeof v)) return;
    std::memcpy(&v, in.data(), sizeof v);
    in.remove_prefix(sizeof v);
  }
  template <class T> void takeAll(std::vector<T>& v) {
    std::uint64_t n = 0;
    take(n);
    if (!(sound = sound && n <= in.size() / sizeof(T))) return;
    v.resize(n);
    std::memcpy(v.data(), in.data(), n * sizeof(T));
    in.remove_prefix(n * sizeof(T));
  }
};

std::string body(const SunHoursResult& r) {
  std::string out;
  putAll(out, r.hours);
  putAll(out, r.longest);
  putAll(out, r.first);
  putAll(out, r.last);
  putAll(out, r.dates);
  put(out, r.midnight);
  put(out, r.possible);
  put(out, r.seconds);
  return out;
}

constexpr const char* cantWrite = "The results file can't be written: ";
constexpr const char* lastsTheSession = " New results last until the program ends.";

} // namespace

std::filesystem::path ResultStore::besideProject(const std::filesystem::path& project) {
  std::filesystem::path p = project;
  return p.replace_extension(".results.sqlite");
}

namespace {
std::unique_ptr<Sqlite> opened(const std::filesystem::path& path) {
  auto db = std::make_unique<Sqlite>(path);
  // Where another program begins the same file just now, SQLite refuses its log at once instead of waiting.
  using Clock = std::chrono::steady_clock;
  const auto until = Clock::now() + std::chrono::seconds(2);
  bool made = false;
  while (!made) {
    try {
      db->run(schema);
      made = true;
    } catch (const SqliteFault& fault) {
      if (!fault.isLock() || Clock::now() > until) throw;
      std::this_thread::sleep_for(std::chrono::milliseconds(20));
    }
  }
  Sqlite::Statement(*db, "SELECT key, kind, name, asked, at, seconds, body, digest FROM result LIMIT 1").next();
  Sqlite::Statement(*db, "SELECT key, study, name, option, asked, at, seconds, state, input FROM run LIMIT 1").next();
  return db;
}
/// A name beside the file that nothing has yet.
std::filesystem::path aside(const std::filesystem::path& path) {
  std::filesystem::path to = path.string() + ".damaged";
  for (int n = 2; std::filesystem::exists(to); ++n) to = path.string() + ".damaged-" + std::to_string(n);
  return to;
}
} // namespace

ResultStore::ResultStore(const std::filesystem::path& path) : memory_(opened({})) {
  if (path.empty()) return;
  try {
    file_ = opened(path);
    writable_ = true;
  } catch (const SqliteFault& fault) {
    std::error_code error;
    if (fault.isDamage()) {
      std::filesystem::rename(path, aside(path), error);
      if (!error)
        for (const char* tail : {"-wal", "-shm"}) std::filesystem::remove(path.string() + tail, error);
      try {
        if (!error) {
          file_ = opened(path);
          writable_ = true;
        }
        notes_.push_back(
            "The results file was damaged; it was put aside and begun anew. Studies run again when asked.");
        return;
      } catch (const SqliteFault&) {
      }
    }
    // Locked, on a full disc, read only: it stays as it is, and is read where it can be.
    for (const Sqlite::Mode mode :
         {Sqlite::Mode::ReadOnly, Sqlite::Mode::Untouched}) // a full disc has no room even for a reader's lock
      try {
        if (file_) break;
        file_ = std::make_unique<Sqlite>(path, mode);
        Sqlite::Statement(*file_, "SELECT key, kind, body, digest FROM result LIMIT 1").next();
        Sqlite::Statement(*file_,
                          "SELECT key, study, name, option, asked, at, seconds, state, number, input FROM run LIMIT 1")
            .next();
      } catch (const SqliteFault&) {
        file_.reset();
      }
    notes_.push_back(std::string(file_ ? "The results file can be read but not written"
                                       : "No results file can be kept beside the project") +
                     " (" + fault.what() + ")." + lastsTheSession);
  }
}

ResultStore::~ResultStore() = default;

std::vector<std::string> ResultStore::notes() const {
  const std::lock_guard lock(mutex_);
  return notes_;
}

std::optional<std::string> ResultStore::load(const Digest& key, const char* kind) {
  const std::lock_guard lock(mutex_);
  for (Sqlite* db : {memory_.get(), file_.get()}) try {
      if (!db) continue;
      Sqlite::Statement q(*db, "SELECT body, digest FROM result WHERE key = ? AND kind = ?");
      if (!q.bind(key.hex()).bind(kind).next()) continue;
      std::string bytes = q.text(0);
      if (digestOf(bytes).hex() == q.text(1)) return bytes; // else damaged: run again
    } catch (const SqliteFault&) {                          // what can't be read now is run again
    }
  return {};
}

namespace {
void storeIn(Sqlite& db, const StoredRun& run, StudyKind study, const char* kind, const std::string& bytes) {
  Sqlite::Transaction all(db); // a kill leaves either all of it or nothing
  std::string input;
  if (!run.wentIn.empty()) {
    input = digestOf(run.wentIn).hex();
    Sqlite::Statement(db, "INSERT OR IGNORE INTO input VALUES (?, ?)").bind(input).bind(run.wentIn).done();
  }
  Sqlite::Statement(
      db,
      "INSERT INTO run (key, study, name, option, asked, at, seconds, state, input) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)")
      .bind(run.key.hex())
      .bind(studyKey(study))
      .bind(run.name)
      .bind(run.option)
      .bind(run.asked)
      .bind(run.when)
      .bind(run.seconds)
      .bind(run.state.empty() ? "finished" : run.state)
      .bind(input)
      .done();
  Sqlite::Statement(db, "INSERT OR REPLACE INTO result VALUES (?, ?, ?, ?, ?, ?, ?, ?)")
      .bind(run.key.hex())
      .bind(kind)
      .bind(run.name)
      .bind(run.asked)
      .bind(run.when)
      .bind(run.seconds)
      .bindBytes(bytes)
      .bind(digestOf(bytes).hex())
      .done();
  all.commit();
}
} // namespace

Outcome ResultStore::store(const StoredRun& run, StudyKind study, const char* kind, const std::string& bytes) {
  const std::lock_guard lock(mutex_);
  std::string fault;
  if (file_ && writable_) {
    try {
      storeIn(*file_, run, study, kind, bytes);
      return {};
    } catch (const SqliteFault& f) {
      fault = f.what();
    }
    const std::string note = cantWrite + fault + "." + lastsTheSession;
    if (std::find(notes_.begin(), notes_.end(), note) == notes_.end()) notes_.push_back(note);
  }
  try {
    storeIn(*memory_, run, study, kind, bytes);
  } catch (const SqliteFault& f) {
    return fail(cantWrite + std::string(f.what()));
  }
  if (!fault.empty()) return fail(cantWrite + fault);
  return {};
}

std::shared_ptr<const SunHoursResult> ResultStore::find(const Digest& key) {
  const auto bytes = load(key, sunHoursKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<SunHoursResult>();
  Taker t{*bytes};
  t.takeAll(r->hours);
  t.takeAll(r->longest);
  t.takeAll(r->first);
  t.takeAll(r->last);
  t.takeAll(r->dates);
  t.take(r->midnight);
  t.take(r->possible);
  t.take(r->seconds);
  const std::size_t n = r->hours.size();
  if (!t.sound || r->longest.size() != n || r->first.size() != n || r->last.size() != n) return nullptr;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const SunHoursResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished) return {}; // what was stopped early is no answer to the question
  run.key = r.key;
  run.seconds = r.seconds;
  return store(run, StudyKind::SunHours, sunHoursKind, body(r));
}

namespace {
std::vector<char> charsOf(const std::string& text) {
  return {text.begin(), text.end()};
}
void putEnergy(std::string& out, const EnergyYear& e) {
  putAll(out, e.ofGroup);
  put(out, std::uint64_t(e.rooms.size()));
  for (const EnergyRoom& r : e.rooms) {
    put(out, r.room);
    putAll(out, charsOf(r.name));
    putAll(out, charsOf(r.use));
    put(out, r.floorArea);
    putAll(out, std::vector<EnergyParts>(r.months.begin(), r.months.end()));
    putAll(out, std::vector<double>{r.peakHeating, r.peakCooling, r.hoursAbove, r.solarError, r.lightingError,
                                    r.freeAbove, r.warmAbove});
    putAll(out, std::vector<std::uint32_t>{r.peakHeatingHour, r.peakCoolingHour});
    putAll(out, r.hours);
    putAll(out, r.free);
    std::string names;
    std::vector<std::uint8_t> kinds;
    std::vector<double> causes;
    for (const EnergyCause& c : r.causes) {
      names += c.name + '\n';
      kinds.push_back(std::uint8_t(c.kind));
      causes.insert(causes.end(), c.months.begin(), c.months.end());
    }
    putAll(out, charsOf(names));
    putAll(out, kinds);
    putAll(out, causes);
  }
}
void takeEnergy(Taker& t, LightResult& r) {
  auto e = std::make_shared<EnergyYear>();
  std::uint64_t n = 0;
  t.takeAll(e->ofGroup);
  t.take(n);
  t.sound = t.sound && std::all_of(e->ofGroup.begin(), e->ofGroup.end(),
                                   [&](std::int32_t r) { return r < 0 || std::uint64_t(r) < n; });
  for (std::uint64_t k = 0; k < n && t.sound && k < 100000; ++k) {
    EnergyRoom room;
    std::vector<char> called, use;
    std::vector<EnergyParts> months;
    std::vector<double> figures;
    std::vector<std::uint32_t> hours;
    t.take(room.room);
    t.takeAll(called);
    t.takeAll(use);
    t.take(room.floorArea);
    t.takeAll(months);
    t.takeAll(figures);
    t.takeAll(hours);
    t.takeAll(room.hours);
    t.takeAll(room.free);
    std::vector<char> names;
    std::vector<std::uint8_t> kinds;
    std::vector<double> causes;
    t.takeAll(names);
    t.takeAll(kinds);
    t.takeAll(causes);
    t.sound = t.sound && causes.size() == 12 * kinds.size() &&
              std::size_t(std::count(names.begin(), names.end(), '\n')) == kinds.size();
    if (!t.sound) return;
    auto name = names.begin();
    for (std::size_t c = 0; c < kinds.size(); ++c) {
      const auto end = std::find(name, names.end(), '\n');
      room.causes.push_back({EnergyCauseKind(kinds[c]), std::string(name, end), {}});
      std::copy_n(causes.begin() + std::ptrdiff_t(12 * c), 12, room.causes.back().months.begin());
      name = end + 1;
    }
    t.sound = t.sound && months.size() == 12 && figures.size() == 7 && hours.size() == 2 &&
              room.hours.size() == hoursOfYear && room.free.size() == hoursOfYear;
    if (!t.sound) return;
    room.name.assign(called.begin(), called.end());
    room.use.assign(use.begin(), use.end());
    std::copy(months.begin(), months.end(), room.months.begin());
    room.peakHeating = figures[0];
    room.peakCooling = figures[1];
    room.hoursAbove = figures[2];
    room.solarError = figures[3];
    room.lightingError = figures[4];
    room.freeAbove = figures[5];
    room.warmAbove = figures[6];
    room.peakHeatingHour = hours[0];
    room.peakCoolingHour = hours[1];
    e->rooms.push_back(std::move(room));
  }
  r.energy = std::move(e);
}
/// Further columns and the hours of glare or energy; of a result without them nothing.
void putMore(std::string& out, const LightResult& r) {
  put(out, std::uint64_t(r.columns.size()));
  for (const ResultColumn& c : r.columns) {
    putAll(out, charsOf(c.key));
    putAll(out, c.values);
  }
  put(out, std::uint64_t(r.glare ? 1 : r.energy ? 2 : 0));
  if (r.energy) putEnergy(out, *r.energy);
  if (!r.glare) return;
  const GlareYear& g = *r.glare;
  putAll(out, g.hours);
  put(out, std::uint64_t(g.scheduleHours));
  putAll(out, g.dgp);
  putAll(out, g.seats);
  std::string names;
  for (const std::string& n : g.groups) names += n + '\n';
  putAll(out, charsOf(names));
  putAll(out, g.causes);
  putAll(out, g.closedHours);
}
void takeMore(Taker& t, LightResult& r) {
  std::uint64_t n = 0, glare = 0, schedule = 0;
  t.take(n);
  for (std::uint64_t k = 0; k < n && t.sound && k < 1000; ++k) {
    std::vector<char> key;
    ResultColumn c;
    t.takeAll(key);
    t.takeAll(c.values);
    c.key.assign(key.begin(), key.end());
    t.sound = t.sound && c.values.size() == r.value.size();
    r.columns.push_back(std::move(c));
  }
  t.take(glare);
  if (t.sound && glare == 2) takeEnergy(t, r);
  if (!t.sound || glare != 1) return;
  auto g = std::make_shared<GlareYear>();
  t.takeAll(g->hours);
  t.take(schedule);
  g->scheduleHours = schedule;
  t.takeAll(g->dgp);
  t.takeAll(g->seats);
  std::vector<char> names;
  t.takeAll(names);
  for (std::string name; char c : names)
    if (c == '\n')
      g->groups.push_back(std::exchange(name, {}));
    else
      name += c;
  t.takeAll(g->causes);
  t.takeAll(g->closedHours);
  t.sound = t.sound && g->dgp.size() == r.value.size() * g->hours.size() && g->seats.size() == r.value.size() &&
            g->causes.size() == r.value.size() * g->causeRow();
  r.glare = std::move(g);
}
} // namespace

std::shared_ptr<const LightResult> ResultStore::findLight(const Digest& key) {
  const auto bytes = load(key, lightKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<LightResult>();
  Taker t{*bytes};
  std::int32_t kind = 0;
  std::uint64_t unsettled = 0;
  t.take(kind);
  t.takeAll(r->value);
  t.takeAll(r->standardError);
  t.takeAll(r->samples);
  t.takeAll(r->replicates);
  for (auto* part : {&r->direct, &r->sky, &r->reflected}) t.takeAll(*part);
  std::vector<char> unit;
  t.takeAll(unit);
  r->unit.assign(unit.begin(), unit.end());
  t.take(unsettled);
  t.take(r->seconds);
  takeMore(t, *r);
  const std::size_t n = r->value.size();
  if (!t.sound || kind < 0 || std::size_t(kind) >= studyKinds.size() || r->standardError.size() != n ||
      r->samples.size() != n || (!r->replicates.empty() && r->replicates.size() != 16 * n) ||
      (!r->direct.empty() && (r->direct.size() != n || r->sky.size() != n || r->reflected.size() != n)))
    return nullptr;
  r->kind = StudyKind(kind);
  r->unsettled = unsettled;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const LightResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished) return {};
  run.key = r.key;
  run.seconds = r.seconds;
  std::string out;
  put(out, std::int32_t(r.kind));
  putAll(out, r.value);
  putAll(out, r.standardError);
  putAll(out, r.samples);
  putAll(out, r.replicates);
  for (const auto* part : {&r.direct, &r.sky, &r.reflected}) putAll(out, *part);
  putAll(out, std::vector<char>(r.unit.begin(), r.unit.end()));
  put(out, std::uint64_t(r.unsettled));
  put(out, r.seconds);
  putMore(out, r);
  return store(run, r.kind, lightKind, out);
}

namespace {
/// Every field of a stored year in its order; `f` puts or takes it.
template <class R, class F, class L> void eachField(R& r, F one, L list) {
  list(r.sensors), list(r.beamHours), list(r.relativeError), list(r.spaces), list(r.sdaError), list(r.meanError),
      list(r.provision), list(r.provisionError), list(r.provisionOwn), list(r.provisionOwnError), list(r.closedHours);
  one(r.building), one(r.buildingSdaError), one(r.scheduleHours), one(r.everySpace), one(r.rounds), one(r.certain),
      one(r.certainty), one(r.end), one(r.seconds), one(r.tracing);
}
} // namespace

std::shared_ptr<const YearResult> ResultStore::findYear(const Digest& key) {
  const auto bytes = load(key, yearKind);
  if (!bytes) return nullptr;
  auto r = std::make_shared<YearResult>();
  Taker t{*bytes};
  eachField(
      *r, [&](auto& v) { t.take(v); }, [&](auto& v) { t.takeAll(v); });
  const std::size_t n = r->sensors.size(), spaces = r->spaces.size();
  if (!t.sound || r->beamHours.size() != n || r->relativeError.size() != n) return nullptr;
  for (std::size_t size : {r->sdaError.size(), r->meanError.size(), r->provision.size(), r->provisionError.size(),
                           r->provisionOwn.size(), r->provisionOwnError.size()})
    if (size != spaces) return nullptr;
  r->key = key;
  return r;
}

Outcome ResultStore::keep(const YearResult& r, StoredRun run) {
  if (r.end != RunEnd::Finished && !(r.end == RunEnd::Enough && r.everySpace)) return {};
  run.key = r.key;
  run.seconds = r.seconds;
  run.state = r.end == RunEnd::Enough ? "stopped early" : r.certain ? "certain" : "finished";
  std::string out;
  eachField(
      r, [&](const auto& v) { put(out, v); }, [&](const auto& v) { putAll(out, v); });
  return store(run, StudyKind::Year, yearKind, out);
}

std::vector<StoredRun> ResultStore::runs() {
  const std::lock_guard lock(mutex_);
  std::vector<StoredRun> out;
  for (Sqlite* db : {memory_.get(), file_.get()}) try {
      if (!db) continue;
      Sqlite::Statement q(
          *db, "SELECT key, study, name, option, asked, at, seconds, state, number FROM run ORDER BY number DESC");
      while (q.next()) {
        StoredRun r;
        const std::string key = q.text(0);
        if (key.size() == 32)
          r.key = {idFromText(key.substr(0, 16)).value_or(0), idFromText(key.substr(16)).value_or(0)};
        r.kind = studyFromKey(q.text(1)).value_or(StudyKind::SunHours);
        r.name = q.text(2);
        r.option = q.text(3);
        r.asked = q.text(4);
        r.when = q.text(5);
        r.seconds = q.number(6);
        r.state = q.text(7);
        r.number = numbered(db, q.integer(8));
        out.push_back(std::move(r));
      }
    } catch (const SqliteFault&) { // what can't be read now is not shown
    }
  return out;
}

/// Runs of the session alone count below zero.
std::int64_t ResultStore::numbered(const Sqlite* db, std::int64_t number) const {
  return file_ && db == memory_.get() ? -number : number;
}
Sqlite& ResultStore::holder(std::int64_t run) {
  return file_ && run > 0 ? *file_ : *memory_;
}

std::string ResultStore::wentIn(std::int64_t run) {
  const std::lock_guard lock(mutex_);
  try {
    Sqlite::Statement q(holder(run),
                        "SELECT text FROM input JOIN run ON run.input = input.digest WHERE run.number = ?");
    return q.bind(std::abs(run)).next() ? q.text(0) : std::string();
  } catch (const SqliteFault&) {
    return {};
  }
}

Outcome ResultStore::change(std::int64_t run, const std::function<void(Sqlite&, std::int64_t)>& how) {
  const std::lock_guard lock(mutex_);
  try {
    Sqlite& db = holder(run);
    Sqlite::Transaction all(db);
    how(db, std::abs(run));
    all.commit();
    return {};
  } catch (const SqliteFault& f) {
    return fail(cantWrite + std::string(f.what()));
  }
}

Outcome ResultStore::rename(std::int64_t run, const std::string& name) {
  return change(run, [&](Sqlite& db, std::int64_t n) {
    Sqlite::Statement(db, "UPDATE run SET name = ? WHERE number = ?").bind(name).bind(n).done();
  });
}

Outcome ResultStore::removeRun(std::int64_t run) {
  return change(run, [](Sqlite& db, std::int64_t n) {
    Sqlite::Statement(db, "DELETE FROM result WHERE key = (SELECT key FROM run WHERE number = ?) AND (SELECT count(*) "
                          "FROM run WHERE key = result.key) < 2")
        .bind(n)
        .done();
    Sqlite::Statement(db, "DELETE FROM run WHERE number = ?").bind(n).done();
    db.run("DELETE FROM input WHERE digest NOT IN (SELECT input FROM run)");
  });
}

Outcome ResultStore::remove(const Digest& key) {
  Outcome done;
  for (const std::int64_t side : {1, -1}) {
    if (side < 0 && !file_) break;
    Outcome one = change(side, [&](Sqlite& db, std::int64_t) {
      Sqlite::Statement(db, "DELETE FROM result WHERE key = ?").bind(key.hex()).done();
      Sqlite::Statement(db, "DELETE FROM run WHERE key = ?").bind(key.hex()).done();
    });
    if (!one) done = std::move(one);
  }
  return done;
}

std::string wentInText(const Project& project, const Study& study) {
  Project p = project;
  p.options.clear();
  p.option = 0;
  p.studies = {study};
  p.judgements.clear();
  p.views.clear();
  p.record = {};
  p.seasons.clear();
  p.sunWishes = {};
  if (!study.groups.empty())
    std::erase_if(p.groups, [&](const SensorGroup& g) {
      return std::find(study.groups.begin(), study.groups.end(), g.id) == study.groups.end();
    });
  return projectText(p, "files");
}

std::vector<std::string> wentInDifferences(const std::string& from, const std::string& to) {
  const Json a = Json::parse(from, nullptr, false), b = Json::parse(to, nullptr, false);
  if (a.is_discarded() || b.is_discarded()) return {"What went in is not known."};
  std::vector<std::string> out;
  for (const JsonChange& c : differences(a, b)) out.push_back(changeText(c, a, b));
  return out;
}

} // namespace noonward
