# Checks for what the commands need and cannot install themselves. Sourced, not run.

need_dotnet() {
  if ! command -v dotnet >/dev/null || ! dotnet --list-sdks | grep -q '^10\.'; then
    echo "Juniperfall needs the .NET 10 SDK; it was not found on PATH." >&2
    exit 1
  fi
  export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
}

need_node() {
  if ! command -v node >/dev/null || ! node -e 'process.exit(parseInt(process.versions.node) < 20 ? 1 : 0)'; then
    echo "Juniperfall needs Node.js 20 or later; it was not found on PATH." >&2
    exit 1
  fi
}

# need_package COMMAND PACKAGE: installs a Debian package unless its command is there.
need_package() {
  [ -x "$1" ] && return
  if [ "$(id -u)" -ne 0 ]; then
    echo "Juniperfall needs Debian's package $2; install it, or run once as root." >&2
    exit 1
  fi
  echo "Installing $2 …" >&2
  apt-get update -qq
  DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "$2" >/dev/null
}

need_chromium() { need_package /usr/bin/chromium chromium; }
