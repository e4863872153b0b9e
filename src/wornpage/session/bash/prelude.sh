# Read by each chunk's shell before its code: brings in the state that chunks above have left, and leaves its own at the end.
unset BASH_ENV
__worn_place=$WORN_PLACE __worn_at_end= __worn_followed=
unset WORN_PLACE
. "$__worn_place/state"
# What a chunk wants done at its end is done before its state is taken down.
trap() {
  if [ $# -eq 2 ] && { [ "$2" = EXIT ] || [ "$2" = 0 ]; }; then
    __worn_at_end=$1
    [ "$1" != - ] || __worn_at_end=
  else
    builtin trap "$@"
  fi
}
__worn_end() {
  local status=$?
  if [ -n "$__worn_followed" ]; then { set +x; unset BASH_XTRACEFD; } 2>/dev/null; fi
  builtin trap - EXIT ERR
  eval "$__worn_at_end"
  { alias -p; shopt -p; set +o; } > "$__worn_place/options" 2>/dev/null
  set +eu
  declare -p > "$__worn_place/variables" 2>/dev/null
  declare -f > "$__worn_place/functions" 2>/dev/null
  builtin trap -p > "$__worn_place/traps" 2>/dev/null
  printf '%s' "$PWD" > "$__worn_place/folder"
  umask > "$__worn_place/umask"
  exit "$status"
}
builtin trap __worn_end EXIT
builtin trap 'printf "%s\n%s\n" "${BASH_LINENO[*]} $LINENO" "$BASH_COMMAND" > "$__worn_place/failed"' ERR
. "$__worn_place/options-before"
# Where code asks for files whose names it puts together, what it does is followed.
if [ -e "$__worn_place/followed" ]; then
  __worn_followed=yes
  exec {BASH_XTRACEFD}>"$__worn_place/followed"
  set -x
fi
