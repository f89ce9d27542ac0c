# wadium_firmware(NAME CHIP chip [BOARD board] [PLAIN] SOURCES file... [DEFINITIONS def...])
#
# PLAIN: volatile C at the registers' own addresses, without Wadium's drivers.
#
# Builds NAME.wfw, firmware for the simulated chip, with the generated header, role tables, vector
# table and pin names on its include path and Wadium's drivers linked in. The firmware's own main
# and handlers stay as they are for the target.

set(WADIUM_ROOT ${CMAKE_CURRENT_LIST_DIR}/..)
file(GLOB WADIUM_DRIVERS CONFIGURE_DEPENDS ${WADIUM_ROOT}/drivers/*.c)

# Where a chip's sheet lies: in chips/, or where WADIUM_SHEET_chip says.
function(wadium_sheet CHIP OUT)
  string(TOLOWER ${CHIP} chip)
  set(${OUT} ${WADIUM_ROOT}/chips/${chip}.sheet PARENT_SCOPE)
  if(WADIUM_SHEET_${chip})
    set(${OUT} ${WADIUM_SHEET_${chip}} PARENT_SCOPE)
  endif()
endfunction()

# Generates the C of a chip once for the whole build; sets OUT to the folder.
function(wadium_generate CHIP OUT)
  string(TOLOWER ${CHIP} chip)
  set(dir ${PROJECT_BINARY_DIR}/generated/${chip})
  set(${OUT} ${dir} PARENT_SCOPE)
  if(TARGET generate_${chip})
    return()
  endif()
  file(MAKE_DIRECTORY ${dir})
  wadium_sheet(${CHIP} sheet)
  add_custom_command(
    OUTPUT ${dir}/${chip}.h ${dir}/${chip}_roles.h ${dir}/${chip}_vectors.c ${dir}/memory.ld
    COMMAND wadium emit header ${sheet} -o ${dir}/${chip}.h
    COMMAND wadium emit roles ${sheet} -o ${dir}/${chip}_roles.h
    COMMAND wadium emit vectors ${sheet} -o ${dir}/${chip}_vectors.c
    COMMAND wadium emit linker ${sheet} -o ${dir}/memory.ld
    DEPENDS wadium ${sheet} VERBATIM)
  add_custom_target(generate_${chip} DEPENDS ${dir}/${chip}.h ${dir}/${chip}_vectors.c)
endfunction()

function(wadium_generate_board BOARD OUT)
  string(TOLOWER ${BOARD} board)
  set(dir ${PROJECT_BINARY_DIR}/generated/${board})
  set(${OUT} ${dir} PARENT_SCOPE)
  if(TARGET generate_${board})
    return()
  endif()
  file(MAKE_DIRECTORY ${dir})
  set(file ${WADIUM_ROOT}/boards/${board}.board)
  add_custom_command(OUTPUT ${dir}/${board}_pins.h
    COMMAND wadium emit pins ${file} -o ${dir}/${board}_pins.h
    DEPENDS wadium ${file} VERBATIM)
  add_custom_target(generate_${board} DEPENDS ${dir}/${board}_pins.h)
endfunction()

# What firmware is compiled with: frame pointers and no tail calls, so that findings name callers.
set(WADIUM_FIRMWARE_OPTIONS -g -ffreestanding -fPIC -fno-omit-frame-pointer
    -fno-optimize-sibling-calls -fno-sanitize=all -fno-lto)

# Plain volatile C: the compiler calls in before each access (docs/simulator.md).
if(CMAKE_C_COMPILER_ID STREQUAL "Clang")
  set(WADIUM_PLAIN_OPTIONS -DWAD_HOST -fsanitize=thread -fno-finite-loops
      -fdebug-info-for-profiling
      "SHELL:-mllvm -tsan-distinguish-volatile=1"
      "SHELL:-mllvm -tsan-instrument-read-before-write=1")
else()
  set(WADIUM_PLAIN_OPTIONS -DWAD_HOST -fsanitize=thread "SHELL:--param tsan-distinguish-volatile=1")
endif()

# The drivers for a chip, compiled once and linked into each firmware.
function(wadium_drivers CHIP OUT)
  string(TOLOWER ${CHIP} chip)
  set(${OUT} drivers_${chip} PARENT_SCOPE)
  if(TARGET drivers_${chip})
    return()
  endif()
  wadium_generate(${CHIP} generated)
  add_library(drivers_${chip} OBJECT ${WADIUM_DRIVERS})
  add_dependencies(drivers_${chip} generate_${chip})
  target_include_directories(drivers_${chip} PUBLIC ${generated} ${WADIUM_ROOT}/include
                             ${WADIUM_ROOT}/ports/sim)
  target_compile_definitions(drivers_${chip} PUBLIC WAD_CHIP="${chip}_roles.h")
  target_compile_options(drivers_${chip} PRIVATE ${WADIUM_FIRMWARE_OPTIONS})
endfunction()

function(wadium_firmware NAME)
  cmake_parse_arguments(FW "PLAIN" "CHIP;BOARD" "SOURCES;DEFINITIONS" ${ARGN})
  string(TOLOWER ${FW_CHIP} chip)
  wadium_generate(${FW_CHIP} generated)
  wadium_drivers(${FW_CHIP} drivers)
  set_source_files_properties(${generated}/${chip}_vectors.c PROPERTIES GENERATED TRUE)
  add_library(${NAME} MODULE ${FW_SOURCES} ${generated}/${chip}_vectors.c)
  add_dependencies(${NAME} generate_${chip})
  if(FW_PLAIN)
    target_include_directories(${NAME} PRIVATE ${generated} ${WADIUM_ROOT}/include
                               ${WADIUM_ROOT}/ports/sim)
  else()
    target_link_libraries(${NAME} PRIVATE ${drivers})
  endif()
  if(FW_BOARD)
    wadium_generate_board(${FW_BOARD} board_dir)
    string(TOLOWER ${FW_BOARD} board)
    add_dependencies(${NAME} generate_${board})
    target_include_directories(${NAME} PRIVATE ${board_dir})
  endif()
  target_compile_definitions(${NAME} PRIVATE ${FW_DEFINITIONS})
  target_compile_options(${NAME} PRIVATE ${WADIUM_FIRMWARE_OPTIONS})
  if(FW_PLAIN)
    target_compile_options(${NAME} PRIVATE ${WADIUM_PLAIN_OPTIONS})
    target_link_options(${NAME} PRIVATE -Wl,--wrap=memcpy,--wrap=memmove,--wrap=memset,--wrap=exit,--wrap=_exit,--wrap=abort)
  endif()
  wadium_sheet(${FW_CHIP} sheet)
  file(STRINGS ${sheet} unsigned_char REGEX "char unsigned")
  if(unsigned_char)
    target_compile_options(${NAME} PRIVATE -funsigned-char)
  endif()
  if(WADIUM_COVERAGE) # counting its own lines would turn an empty loop into one that works
    target_compile_options(${NAME} PRIVATE -fno-profile-arcs -fno-test-coverage)
  endif()
  target_link_options(${NAME} PRIVATE -Wl,--wrap=printf,--wrap=vprintf,--wrap=puts,--wrap=putchar,--wrap=getchar)
  target_link_options(${NAME} PRIVATE -Wl,-Bsymbolic -Wl,-Ttext-segment=0x20000000
                      -fno-sanitize=all -fno-lto)
  set_target_properties(${NAME} PROPERTIES PREFIX "" SUFFIX ".wfw"
                        LIBRARY_OUTPUT_DIRECTORY ${PROJECT_BINARY_DIR}/firmware)
endfunction()

# wadium_desk(NAME CHIP chip [BOARD board] SOURCES file... [DEFINITIONS def...])
#
# Builds the program NAME: the same firmware on the desk, its register accesses go to a live board
# (ports/remote, docs/board.md).
function(wadium_desk NAME)
  cmake_parse_arguments(FW "" "CHIP;BOARD" "SOURCES;DEFINITIONS" ${ARGN})
  string(TOLOWER ${FW_CHIP} chip)
  wadium_generate(${FW_CHIP} generated)
  set_source_files_properties(${generated}/${chip}_vectors.c PROPERTIES GENERATED TRUE)
  set(port ${WADIUM_ROOT}/ports/remote)
  add_executable(${NAME} ${FW_SOURCES} ${generated}/${chip}_vectors.c ${WADIUM_DRIVERS})
  add_dependencies(${NAME} generate_${chip})
  target_include_directories(${NAME} PRIVATE ${generated} ${WADIUM_ROOT}/include ${port})
  if(FW_BOARD)
    wadium_generate_board(${FW_BOARD} board_dir)
    string(TOLOWER ${FW_BOARD} board)
    add_dependencies(${NAME} generate_${board})
    target_include_directories(${NAME} PRIVATE ${board_dir})
  endif()
  # the port has the program's main, and calls the firmware's
  target_compile_definitions(${NAME} PRIVATE WAD_CHIP="${chip}_roles.h" main=wad_firmware_main
                             ${FW_DEFINITIONS})
  target_link_libraries(${NAME} PRIVATE wadium_port_remote)
  set_target_properties(${NAME} PROPERTIES RUNTIME_OUTPUT_DIRECTORY ${PROJECT_BINARY_DIR}/desk)
endfunction()

# wadium_image(NAME CHIP chip [CPU cpu] [BOARD board] [RAM] SOURCES file...)
#
# Builds NAME.elf for the target itself with the cross compiler: `wadium image`.
function(wadium_image NAME)
  cmake_parse_arguments(FW "RAM" "CHIP;BOARD;CPU" "SOURCES" ${ARGN})
  string(TOLOWER ${FW_CHIP} chip)
  set(options -q)
  if(FW_CPU)
    list(APPEND options --cpu ${FW_CPU})
  endif()
  if(FW_RAM)
    list(APPEND options --ram)
  endif()
  if(FW_BOARD)
    string(TOLOWER ${FW_BOARD} board)
    list(APPEND options --board ${WADIUM_ROOT}/boards/${board}.board)
  endif()
  set(sources)
  foreach(file ${FW_SOURCES})
    list(APPEND sources ${CMAKE_CURRENT_SOURCE_DIR}/${file})
  endforeach()
  file(GLOB headers CONFIGURE_DEPENDS ${CMAKE_CURRENT_SOURCE_DIR}/*.h ${WADIUM_ROOT}/include/wadium/*.h
       ${WADIUM_ROOT}/ports/metal*/*)
  wadium_sheet(${FW_CHIP} sheet)
  set(out ${PROJECT_BINARY_DIR}/images/${NAME}.elf)
  file(MAKE_DIRECTORY ${PROJECT_BINARY_DIR}/images)
  add_custom_command(OUTPUT ${out}
    COMMAND wadium image ${sheet} ${sources} ${options} -o ${out}
    DEPENDS wadium ${sources} ${headers} ${WADIUM_DRIVERS} ${sheet} VERBATIM)
  add_custom_target(${NAME}_image ALL DEPENDS ${out})
endfunction()
