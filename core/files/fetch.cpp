#include "core/files/fetch.h"
#include "core/base/words.h"
#include "core/files/epw.h"
#include "core/files/zip_file.h"
#include <algorithm>
#include <curl/curl.h>
#include <memory>

namespace noonward {

namespace {
constexpr std::size_t most = std::size_t(64) << 20;

std::string lowered(std::string_view s) {
  std::string out(s);
  for (char& c : out) c = char(c >= 'A' && c <= 'Z' ? c + 32 : c);
  return out;
}
bool isWeb(const std::string& address) {
  const std::string a = lowered(address.substr(0, 8));
  return a.starts_with("http://") || a.starts_with("https://");
}

struct Answer {
  std::string bytes, address;
};
struct Transfer {
  RunControl* control;
  std::string bytes;
  bool tooMuch = false;
};
std::size_t take(char* data, std::size_t size, std::size_t n, void* user) {
  auto& t = *static_cast<Transfer*>(user);
  t.tooMuch = t.bytes.size() + size * n > most;
  if (t.tooMuch) return 0;
  t.bytes.append(data, size * n);
  return size * n;
}
int watch(void* user, curl_off_t all, curl_off_t now, curl_off_t, curl_off_t) {
  auto& t = *static_cast<Transfer*>(user);
  if (t.control->progress && all > 0) t.control->progress(double(now) / double(all));
  return t.control->goesOn() ? 0 : 1;
}

Expected<Answer> overTheNet(const std::string& address, RunControl& control) {
  const std::unique_ptr<CURL, void (*)(CURL*)> curl(curl_easy_init(),
                                                    curl_easy_cleanup); // 7.84 and later: from any thread
  if (!curl) return fail("Addresses of the net can't be read here.", address);
  Transfer t{&control, {}};
  CURL* c = curl.get();
  curl_easy_setopt(c, CURLOPT_URL, address.c_str());
  curl_easy_setopt(c, CURLOPT_PROTOCOLS_STR, "http,https");
  curl_easy_setopt(c, CURLOPT_REDIR_PROTOCOLS_STR, "http,https");
  curl_easy_setopt(c, CURLOPT_FOLLOWLOCATION, 1L);
  curl_easy_setopt(c, CURLOPT_MAXREDIRS, 5L);
  curl_easy_setopt(c, CURLOPT_CONNECTTIMEOUT, 15L);
  curl_easy_setopt(c, CURLOPT_LOW_SPEED_LIMIT, 1L);
  curl_easy_setopt(c, CURLOPT_LOW_SPEED_TIME, 60L);
  curl_easy_setopt(c, CURLOPT_NOSIGNAL, 1L);
  curl_easy_setopt(c, CURLOPT_ACCEPT_ENCODING, "");
  curl_easy_setopt(c, CURLOPT_USERAGENT, "Noonward/" NOONWARD_VERSION);
  curl_easy_setopt(c, CURLOPT_WRITEFUNCTION, take);
  curl_easy_setopt(c, CURLOPT_WRITEDATA, &t);
  curl_easy_setopt(c, CURLOPT_NOPROGRESS, 0L);
  curl_easy_setopt(c, CURLOPT_XFERINFOFUNCTION, watch);
  curl_easy_setopt(c, CURLOPT_XFERINFODATA, &t);
  const CURLcode code = curl_easy_perform(c);
  long status = 0;
  char* last = nullptr;
  curl_easy_getinfo(c, CURLINFO_RESPONSE_CODE, &status);
  curl_easy_getinfo(c, CURLINFO_EFFECTIVE_URL, &last);
  switch (code) {
  case CURLE_OK:
    break;
  case CURLE_ABORTED_BY_CALLBACK:
    return fail("Stopped.", address);
  case CURLE_URL_MALFORMAT:
  case CURLE_UNSUPPORTED_PROTOCOL:
    return fail("This is no address of the net: http:// or https:// is expected.", address);
  case CURLE_COULDNT_RESOLVE_HOST:
  case CURLE_COULDNT_RESOLVE_PROXY:
    return fail("There is no machine of that name, or no net.", address);
  case CURLE_COULDNT_CONNECT:
    return fail("Nobody answers there.", address);
  case CURLE_OPERATION_TIMEDOUT:
    return fail("It did not answer in time.", address);
  case CURLE_PARTIAL_FILE:
  case CURLE_GOT_NOTHING:
  case CURLE_RECV_ERROR:
    return fail(
        fmt::format("The connection ended after {} bytes, before all of the file had come. Try again.", t.bytes.size()),
        address);
  case CURLE_WRITE_ERROR:
    if (t.tooMuch) return fail(fmt::format("It is more than {} MB: no weather year.", most >> 20), address);
    [[fallthrough]];
  default:
    return fail(fmt::format("It could not be fetched: {}.", curl_easy_strerror(code)), address);
  }
  if (status == 404 || status == 410) return fail("Nothing of that name is there (answer 404).", address);
  if (status >= 400) return fail(fmt::format("The answer was a refusal ({}).", status), address);
  return Answer{std::move(t.bytes), last != nullptr ? last : address};
}

std::string fileNameOf(std::string address) {
  address = address.substr(0, address.find_first_of("?#"));
  const auto at = address.find_last_of('/');
  std::string name = at == std::string::npos ? address : address.substr(at + 1);
  return name.empty() ? "weather.epw" : name;
}

bool isPage(std::string_view bytes) {
  const std::string start = lowered(bytes.substr(0, 600));
  return start.find("<html") != std::string::npos || start.find("<!doctype") != std::string::npos;
}
} // namespace

std::vector<std::string> linkedWeather(std::string_view page, const std::string& address) {
  std::vector<std::string> out;
  const std::string small = lowered(page);
  const auto scheme = address.find("//");
  const auto root = scheme == std::string::npos ? std::string::npos : address.find('/', scheme + 2);
  for (std::size_t at = small.find("href="); at != std::string::npos; at = small.find("href=", at + 5)) {
    const char quote = at + 5 < page.size() ? page[at + 5] : ' ';
    if (quote != '"' && quote != '\'') continue;
    const auto end = page.find(quote, at + 6);
    if (end == std::string_view::npos) break;
    std::string link(page.substr(at + 6, end - at - 6));
    const std::string bare = lowered(link.substr(0, link.find_first_of("?#")));
    if (!bare.ends_with(".epw") && !bare.ends_with(".zip")) continue;
    if (!isWeb(link)) {
      if (link.starts_with("/"))
        link = address.substr(0, root) + link;
      else
        link = (root == std::string::npos ? address + "/" : address.substr(0, address.find_last_of('/') + 1)) + link;
    }
    if (std::find(out.begin(), out.end(), link) == out.end()) out.push_back(std::move(link));
  }
  return out;
}

Expected<FetchedWeather> fetchWeather(const std::string& address, RunControl& control) {
  FetchedWeather out;
  if (isWeb(address)) {
    auto answer = overTheNet(address, control);
    if (!answer) return tl::unexpected(answer.error());
    out.bytes = std::move(answer->bytes);
    out.from = std::move(answer->address);
  } else {
    auto bytes = loadFile(address, most);
    if (!bytes) return tl::unexpected(bytes.error());
    out.bytes = std::move(*bytes);
    out.from = address;
  }
  out.name = fileNameOf(out.from);
  if (out.bytes.empty()) return fail("It is empty.", address);
  if (isPage(out.bytes)) {
    const std::vector<std::string> links = linkedWeather(out.bytes, out.from);
    if (links.empty()) return fail("A web page came, not a weather file.", address);
    std::string list;
    for (std::size_t k = 0; k < links.size() && k < 12; ++k) list += (k > 0 ? ", " : "") + links[k];
    return fail(fmt::format("A web page came, not a weather file. It links to {}: {}.",
                            counted(links.size(), "weather file", "weather files"), list),
                address);
  }
  if (out.bytes.starts_with("PK\x03\x04")) {
    const auto zip = ZipFile::ofBytes(std::move(out.bytes), out.name);
    if (!zip) return tl::unexpected(zip.error());
    std::vector<std::string> names = zip->names();
    std::erase_if(names, [](const std::string& n) { return !lowered(n).ends_with(".epw"); });
    if (names.empty()) return fail("The archive holds no weather file (.epw).", address);
    if (names.size() > 1)
      return fail(fmt::format("The archive holds {} weather files: unpack the one that is meant ({}).", names.size(),
                              fmt::join(names.begin(),
                                        names.begin() + std::ptrdiff_t(std::min<std::size_t>(5, names.size())), ", ")),
                  address);
    auto bytes = zip->read(names.front(), most);
    if (!bytes) return tl::unexpected(bytes.error());
    out.bytes = std::move(*bytes);
    out.name = fileNameOf(names.front());
  }
  auto weather = parseEpw(out.bytes, out.name);
  if (!weather) return tl::unexpected(weather.error());
  out.weather = std::move(*weather);
  return out;
}

} // namespace noonward
