#include "text.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define FIRST_ROOM 4096

void text_free(Text *text) {
    free(text->bytes);
    memset(text, 0, sizeof *text);
}

void text_clear(Text *text) {
    text->length = 0;
    text->failed = false;
}

static bool text_reserve(Text *text, size_t more) {
    if (text->failed) return false;
    if (text->room - text->length >= more) return true;
    size_t room = text->room == 0 ? FIRST_ROOM : text->room;
    while (room - text->length < more) room *= 2;
    char *bytes = realloc(text->bytes, room);
    if (bytes == NULL) {
        text->failed = true;
        return false;
    }
    text->bytes = bytes;
    text->room = room;
    return true;
}

void text_add(Text *text, const char *bytes, size_t length) {
    if (length == 0 || !text_reserve(text, length)) return;
    memcpy(text->bytes + text->length, bytes, length);
    text->length += length;
}

void text_put(Text *text, const char *words) {
    text_add(text, words, strlen(words));
}

void text_put_uint(Text *text, uint64_t value) {
    char digits[20];
    size_t at = sizeof digits;
    do {
        digits[--at] = (char)('0' + value % 10);
        value /= 10;
    } while (value != 0);
    text_add(text, digits + at, sizeof digits - at);
}

void text_put_ms(Text *text, int64_t ns) {
    if (ns < 0) {
        text_add(text, "-", 1);
        ns = -ns;
    }
    uint64_t us = ((uint64_t)ns + 500) / 1000;
    text_put_uint(text, us / 1000);
    char decimals[4] = { '.', (char)('0' + us / 100 % 10), (char)('0' + us / 10 % 10), (char)('0' + us % 10) };
    text_add(text, decimals, sizeof decimals);
}

static void text_put_escape(Text *text, unsigned unit) {
    static const char hex[] = "0123456789abcdef";
    char escape[6] = { '\\', 'u', hex[unit >> 12 & 15], hex[unit >> 8 & 15], hex[unit >> 4 & 15], hex[unit & 15] };
    text_add(text, escape, sizeof escape);
}

/* Length of the UTF-8 sequence at `bytes`, of at most `left` bytes; 0 when it is none. */
static size_t text_sequence(const unsigned char *bytes, size_t left) {
    size_t length = bytes[0] < 0xC2 ? 0 : bytes[0] < 0xE0 ? 2 : bytes[0] < 0xF0 ? 3 : bytes[0] < 0xF5 ? 4 : 0;
    if (length == 0 || length > left) return 0;
    for (size_t at = 1; at < length; at++) if ((bytes[at] & 0xC0) != 0x80) return 0;
    if (bytes[0] == 0xE0 && bytes[1] < 0xA0) return 0;
    if (bytes[0] == 0xF0 && bytes[1] < 0x90) return 0;
    if (bytes[0] == 0xF4 && bytes[1] > 0x8F) return 0;
    return length;
}

static size_t text_put_wide(Text *text, const unsigned char *bytes, size_t left) {
    if (left >= 2 && bytes[0] == 0xC0 && bytes[1] == 0x80) {
        text_put_escape(text, 0);
        return 2;
    }
    size_t length = text_sequence(bytes, left);
    if (length == 0) {
        text_put_escape(text, 0xFFFD);
        return 1;
    }
    bool surrogate = length == 3 && bytes[0] == 0xED && bytes[1] >= 0xA0;
    if (surrogate) text_put_escape(text, (unsigned)((bytes[0] & 0x0F) << 12 | (bytes[1] & 0x3F) << 6 | (bytes[2] & 0x3F)));
    else text_add(text, (const char *)bytes, length);
    return length;
}

void text_put_json(Text *text, const char *bytes, size_t length, size_t most) {
    const unsigned char *from = (const unsigned char *)bytes;
    size_t end = length < most ? length : most;
    text_add(text, "\"", 1);
    for (size_t at = 0; at < end;) {
        size_t plain = at;
        while (plain < end && from[plain] >= 0x20 && from[plain] < 0x80 && from[plain] != '"' && from[plain] != '\\') plain++;
        text_add(text, bytes + at, plain - at);
        at = plain;
        if (at == end) break;
        if (from[at] == '"' || from[at] == '\\') {
            text_add(text, "\\", 1);
            text_add(text, bytes + at++, 1);
        } else if (from[at] < 0x20 || from[at] == 0x7F) {
            text_put_escape(text, from[at++]);
        } else {
            /* Looks past `end` so that a cut never falls into a character. */
            at += text_put_wide(text, from + at, length - at);
        }
    }
    text_add(text, "\"", 1);
}
