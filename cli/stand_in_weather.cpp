// A catalogue of weather years on this machine alone: what `weather fetch` and the tests of it ask.

#include "cli/commands.h"
#include "core/files/save_file.h"
#include "core/files/zip_file.h"
#include <boost/asio/ip/tcp.hpp>
#include <boost/asio/write.hpp>
#include <boost/beast/core.hpp>
#include <boost/beast/http.hpp>
#include <cstdio>
#include <map>
#include <memory>

namespace noonward::cli {

namespace {

namespace http = boost::beast::http;
using Tcp = boost::asio::ip::tcp;

struct CatalogueCall {
  std::string folder;
  int port = 0, requests = 0;
};

/// What stands at each path: the years of a folder, plain and zipped, and the ways a server can fail.
struct Catalogue {
  std::map<std::string, std::string> files; ///< "/brevholm.epw" → bytes
  std::string page;
};

Expected<Catalogue> catalogueOf(const std::filesystem::path& folder) {
  Catalogue out;
  std::error_code error;
  std::vector<std::filesystem::path> years;
  for (const auto& entry : std::filesystem::directory_iterator(folder, error))
    if (entry.path().extension() == ".epw") years.push_back(entry.path());
  std::sort(years.begin(), years.end());
  if (years.empty()) return fail("No weather years lie there.", folder.string());
  std::string rows;
  for (const std::filesystem::path& path : years) {
    auto bytes = loadFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    const std::string name = path.filename().string(), stem = path.stem().string();
    auto archive = zipped(name, *bytes);
    if (!archive) return tl::unexpected(archive.error());
    rows +=
        fmt::format("<tr><td>{}</td><td><a href=\"/{}\">year</a></td><td><a href=\"/{}.zip\">zipped</a></td></tr>\n",
                    stem, name, stem);
    out.files["/" + name] = std::move(*bytes);
    out.files["/" + stem + ".zip"] = std::move(*archive);
  }
  out.page = "<!doctype html>\n<html><head><title>Stand-in weather catalogue</title></head><body>\n"
             "<h1>Made-up weather years by place</h1>\n<table>\n" +
             rows + "</table></body></html>\n";
  return out;
}

void answer(Tcp::socket& socket, const Catalogue& catalogue) {
  boost::system::error_code error;
  boost::beast::flat_buffer buffer;
  http::request<http::empty_body> asked;
  http::read(socket, buffer, asked, error);
  if (error) return;
  std::string path(asked.target());
  http::response<http::string_body> out{http::status::ok, 11};
  out.set(http::field::server, "Noonward stand-in");
  out.keep_alive(false);
  const bool half = path.starts_with("/half/"), moved = path.starts_with("/moved/");
  if (half) path = path.substr(5);
  const auto found = catalogue.files.find(path);
  if (moved) {
    out.result(http::status::found);
    out.set(http::field::location, path.substr(6));
  } else if (path == "/") {
    out.set(http::field::content_type, "text/html");
    out.body() = catalogue.page;
  } else if (path == "/locked") {
    out.result(http::status::forbidden);
  } else if (found != catalogue.files.end()) {
    out.set(http::field::content_type, path.ends_with(".zip") ? "application/zip" : "text/plain");
    out.body() = found->second;
  } else {
    out.result(http::status::not_found);
  }
  out.prepare_payload();
  if (half) { // promises all of it, and goes
    std::string head = fmt::format("HTTP/1.1 200 OK\r\nContent-Length: {}\r\n\r\n", out.body().size());
    head += out.body().substr(0, out.body().size() / 2);
    boost::asio::write(socket, boost::asio::buffer(head), error);
  } else {
    http::write(socket, out, error);
  }
  socket.shutdown(Tcp::socket::shutdown_send, error);
}

int serve(const CatalogueCall& c, const Session& session) {
  const std::filesystem::path folder =
      c.folder.empty() ? resourcesFolder(session.program).parent_path() / "demo" : std::filesystem::path(c.folder);
  const auto catalogue = catalogueOf(folder);
  if (!catalogue) return complain(catalogue.error().text(), 1);
  boost::asio::io_context context;
  boost::system::error_code error;
  Tcp::acceptor acceptor(context);
  const Tcp::endpoint here(boost::asio::ip::address_v4::loopback(), static_cast<unsigned short>(c.port));
  acceptor.open(here.protocol(), error);
  acceptor.set_option(Tcp::acceptor::reuse_address(true), error);
  acceptor.bind(here, error);
  if (!error) acceptor.listen(boost::asio::socket_base::max_listen_connections, error);
  if (error) return complain(fmt::format("stand-in weather: port {}: {}", c.port, error.message()), 1);
  fmt::print("http://127.0.0.1:{}/\n", acceptor.local_endpoint().port());
  std::fflush(stdout);
  for (int n = 0; c.requests == 0 || n < c.requests; ++n) {
    Tcp::socket socket(context);
    acceptor.accept(socket, error);
    if (!error) answer(socket, *catalogue);
  }
  return 0;
}

} // namespace

void addStandInWeather(CLI::App& stand, Session& session) {
  auto c = std::make_shared<CatalogueCall>();
  auto* w =
      stand.add_subcommand("weather", "A catalogue of the made-up weather years, answering on this machine alone");
  w->add_option("--port", c->port, "0: any that is free (0); the address is printed")->check(CLI::Range(0, 65535));
  w->add_option("--folder", c->folder, "of EPW files (those of the demo)");
  w->add_option("--requests", c->requests, "end after so many (0: never)")->check(CLI::Range(0, 1000000));
  w->callback([c, &session] { session.exit = serve(*c, session); });
}

} // namespace noonward::cli
