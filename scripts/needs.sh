# Checks for what the commands need and cannot install themselves. Sourced, not run.

need_dotnet() {
  if ! command -v dotnet >/dev/null || ! dotnet --list-sdks | grep -q '^10\.'; then
    echo "Juniperfall needs the .NET 10 SDK; it was not found on PATH." >&2
    exit 1
  fi
  export DOTNET_CLI_TELEMETRY_OPTOUT=1 DOTNET_NOLOGO=1
}
