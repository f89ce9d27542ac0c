/* SPDX-License-Identifier: MIT */
/* docs/sheet.ebnf as a tree. */
#ifndef TEST_EBNF_H
#define TEST_EBNF_H

#include <glib.h>

typedef enum form { WORD, TERMINAL, RULE, SEQUENCE, CHOICE, OPTION, REPEATED } form;

typedef struct node {
    form form;
    char *text;      /* of a word, terminal or rule */
    GPtrArray *in;   /* of the others */
    unsigned *taken; /* of a choice how often each was made; of the others: left out, taken */
} node;

extern GHashTable *rules;  /* name -> node */
extern GPtrArray *choices; /* nodes that decide something */

node *new_node(form what, const char *text);
void read_grammar(void);

#endif
