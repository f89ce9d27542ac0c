/* SPDX-License-Identifier: MIT */
/* Parts of Wadium's own, one line each: a bench or a board names them by their kinds. */
WADI_PART(thermometer)
WADI_PART(flash)
WADI_PART(echo)
