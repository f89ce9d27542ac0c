#!/usr/bin/env bash
# From the sheet to a verified board, step by step, on the stand-in with two defects in it: a chip of
# another revision, and a resistor that is missing. docs/board.md tells what is seen; a test runs
# this and holds that page against it.
set -uo pipefail
cd "$(dirname "$0")/../.."
BUILD=${BUILD:-build/debug}
case $BUILD in /*) ;; *) BUILD=$PWD/$BUILD ;; esac
PATH=$BUILD/bin:$PATH
OUT=$(mktemp -d)
export PORT=${PORT:-0} WADIUM_BOARD=
here=examples/board-bring-up
board= status=0

# ---- the board on the desk: in a process of its own ----

plug_in() { # MORE OPTIONS: switches the stand-in on, with a chip of revision A
    wadium board skerry --listen "$PORT" --serial LINK="$OUT/link" --world examples/board-check/jumpers.world \
        --defect "erratum corran32-rev-a" "$@" >"$OUT/board.log" 2>&1 &
    board=$!
    WADIUM_BOARD=
    while [ -z "$WADIUM_BOARD" ] && kill -0 "$board" 2>/dev/null; do # until it is there, or has ended
        sleep 0.05
        WADIUM_BOARD=$(sed -n 's/^ready at //p' "$OUT/board.log")
    done
    export WADIUM_BOARD
}

unplug() {
    [ -n "$board" ] && kill "$board" 2>/dev/null && wait "$board" 2>/dev/null
    board=
}

# What an oscilloscope would record of the board: as fast as it goes, so that the file is the same each time.
record() { # IMAGE FILE
    wadium board skerry --listen 0 --pace 0 --for 220ms --firmware "$1" --vcd "$2" --defect "erratum corran32-rev-a" >/dev/null
}

trap 'unplug; rm -rf "$OUT"' EXIT

step() { printf '\n== %s\n' "$1"; }
show() { # the command as one would type it, and what it says
    printf '%% %s\n' "${*//$OUT/out}"
    "$@" 2>&1 | sed "s#$OUT#out#g"
    return "${PIPESTATUS[0]}"
}
must() { # 0|1|2 COMMAND: with this exit status
    local want=$1 got=0
    shift
    show "$@" || got=$?
    [ $got = "$want" ] || { echo "exit status $got, not $want"; status=1; }
}

step "the chip answers"
plug_in --defect "pull TEST missing"
must 0 wadium peek skerry INFO.CHIP --line
must 2 wadium peek corran16 INFO.CHIP

step "the first pin"
must 2 wadium poke skerry PINC.DIR 'PIN[3]=1'
must 0 wadium poke skerry CLK.GATE PINC=1
must 0 wadium poke skerry CLK.RESET PINC=0
must 0 wadium poke skerry PINC.DIR 'PIN[3]=1'
must 0 wadium poke skerry PINC.OUT 'PIN[3]=1'
must 0 wadium peek skerry PINC.IN PINC.OUT

step "the first byte, into RAM"
must 0 wadium image corran32 $here/hello.c --board skerry --ram -q -o "$OUT/hello_ram.elf"
must 0 wadium load skerry "$OUT/hello_ram.elf"
must 0 wadium dump skerry UART0 INFO --until say --image "$OUT/hello_ram.elf" --json "$OUT/board.json"
unplug

step "the same in the simulator, registers compared"
must 0 wadium build corran32 $here/hello.c --board skerry -o "$OUT/hello.wfw"
must 0 wadium run $here/hello.bench -d "$OUT" --vcd "$OUT/sim.vcd" --snapshot "$OUT/sim.json"
must 1 wadium compare "$OUT/sim.json" "$OUT/board.json"

step "the capture compared"
wadium image corran32 $here/hello.c --board skerry -q -o "$OUT/hello.elf"
record "$OUT/hello.elf" "$OUT/board.vcd"
must 1 wadium compare "$OUT/sim.vcd" "$OUT/board.vcd" --align warn --within 20us --most 2
must 1 wadium serial "$OUT/board.vcd" link_tx --baud 9600 --format 8E1

step "the erratum written"
must 0 wadium show $here/errata.sheet UART0.CTRL
must 0 wadium build $here/errata.sheet $here/hello.c --board $here/skerry_a.board -o "$OUT/hello_a.wfw"
must 0 wadium run $here/hello_a.bench -d "$OUT" --vcd "$OUT/sim_a.vcd"
must 0 wadium image $here/errata.sheet $here/hello.c --board $here/skerry_a.board -q -o "$OUT/hello_a.elf"
record "$OUT/hello_a.elf" "$OUT/board_a.vcd"
must 0 wadium compare "$OUT/sim_a.vcd" "$OUT/board_a.vcd" --align warn --within 20us

step "the self-test"
must 0 wadium image corran32 examples/board-check/*.c --board skerry -q -o "$OUT/check.elf"
plug_in --firmware "$OUT/check.elf" --defect "pull TEST missing"
must 1 wadium collect "$OUT/link" --reset "$WADIUM_BOARD" --timeout 60s -q
unplug

step "the resistor soldered"
plug_in --firmware "$OUT/check.elf"
must 0 wadium collect "$OUT/link" --reset "$WADIUM_BOARD" --timeout 60s -q
unplug
[ $status = 0 ] && echo && echo "the board is verified"
exit $status
