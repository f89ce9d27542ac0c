# Debian packages by name, and how to get the ones that are missing.
BUILD_PACKAGES="gcc make cmake ninja-build pkg-config libglib2.0-dev libjson-glib-dev libxml2-dev libdw-dev libelf-dev libfftw3-dev libncurses-dev libcmocka-dev gdb gdbserver gdb-multiarch gcc-arm-none-eabi gnuplot-nox fonts-dejavu-core"
CHECK_PACKAGES="clang clang-format clang-tidy cppcheck"
TARGET_PACKAGES="gcc-riscv64-unknown-elf gcc-avr"
COVERAGE_PACKAGES="gcovr"

# need_packages PURPOSE PACKAGE...: installs what is missing, as root or through sudo.
need_packages() {
    local purpose=$1 missing=() package
    shift
    for package in "$@"; do
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'ok installed' || missing+=("$package")
    done
    [ ${#missing[@]} -eq 0 ] && return 0
    echo "wadium: installing for $purpose: ${missing[*]}"
    local sudo=
    if [ "$(id -u)" != 0 ]; then
        sudo=sudo
        command -v sudo >/dev/null || {
            echo "wadium: run as root, or install these Debian packages: ${missing[*]}" >&2
            return 1
        }
    fi
    $sudo apt-get update -qq
    DEBIAN_FRONTEND=noninteractive $sudo apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
}
