# Stops in the firmware's handler, steps, prints, and lets it go on (docs/simulator.md).
set breakpoint pending on
set confirm off
set environment ASAN_OPTIONS detect_leaks=0
break handle_CNT0
run
bt 1
print halves
next
next
shell sleep 1
next
next
print halves
delete
break wad_port_sleep
continue
up
print halves
delete
continue
