/* SPDX-License-Identifier: MIT */
/* Nothing: what start-up takes. */

int main(void)
{
    for (;;) {
    }
}
