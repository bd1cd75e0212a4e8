# Sourced by the scripts at the top: installs what is missing, configures, builds. Run from the repository's root.
# `source cmake/setup.sh window` leaves out what only tests need.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")/.."
export CCACHE_BASEDIR=$PWD CCACHE_NOHASHDIR=1 # clones in other folders share what was compiled
missing=()
while read -r package; do
  [ "${1:-}" = window ] && [ "$package" = "# tests" ] && break
  case "$package" in ""|\#*) continue;; esac
  dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q "install ok installed" || missing+=("$package")
done < apt-packages.txt
if [ ${#missing[@]} -gt 0 ]; then
  echo "Installing ${#missing[@]} packages, two or three minutes on a machine that has none: ${missing[*]}"
  sudo=""; [ "$(id -u)" -eq 0 ] || sudo="sudo"
  $sudo apt-get update -qq
  $sudo env DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends "${missing[@]}" | awk '
    /^Get:/ {done = "fetched"} /^Unpacking / {done = "unpacked"} /^Setting up / {done = "set up"} /^E:/ {print}
    /^(Get:|Unpacking |Setting up )/ {if (++n[done] % 50 == 1) {print "  " n[done] " packages " done; fflush()}}'
fi
build() { # build PRESET [TARGET…]
  local preset=$1; shift
  cmake --preset "$preset" -Wno-dev > "/tmp/noonward-cmake-$$.log" 2>&1 || { cat "/tmp/noonward-cmake-$$.log"; return 1; }
  rm -f "/tmp/noonward-cmake-$$.log"
  [ -e "build/$preset/.ninja_log" ] || echo "Building for the first time: about ten minutes on two cores."
  local begun=$SECONDS
  cmake --build "build/$preset" ${1:+--target "$@"}
  echo "Built in $(((SECONDS - begun) / 60)) min $(((SECONDS - begun) % 60)) s; $((SECONDS / 60)) min $((SECONDS % 60)) s in all."
}
