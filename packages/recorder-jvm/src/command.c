#include "command.h"

#include <string.h>

#define MOST_LABEL 1200

/* The value behind `"key":`, at any distance of blanks; NULL when the line has none. */
static const char *command_value(const char *line, size_t length, const char *key) {
    size_t wanted = strlen(key);
    bool inside = false;
    for (size_t at = 0; at + wanted + 3 < length; at++) {
        if (line[at] == '\\') {
            at++;
            continue;
        }
        if (line[at] != '"') continue;
        inside = !inside;
        if (!inside || memcmp(line + at + 1, key, wanted) != 0 || line[at + 1 + wanted] != '"') continue;
        size_t value = at + wanted + 2;
        while (value < length && (line[value] == ' ' || line[value] == '\t')) value++;
        if (value >= length || line[value] != ':') continue;
        value++;
        while (value < length && (line[value] == ' ' || line[value] == '\t')) value++;
        return value < length ? line + value : NULL;
    }
    return NULL;
}

/* The inside of a JSON string at `value`; NULL when it is none or does not end. */
static const char *command_string(const char *value, const char *end, size_t *length) {
    if (value == NULL || *value != '"') return NULL;
    for (const char *at = value + 1; at < end; at++) {
        if ((unsigned char)*at < 0x20) return NULL;
        if (*at == '\\') at++;
        else if (*at == '"') {
            *length = (size_t)(at - value - 1);
            return value + 1;
        }
    }
    return NULL;
}

static int64_t command_number(const char *value, const char *end) {
    int64_t number = 0;
    if (value == NULL || *value < '0' || *value > '9') return -1;
    for (; value < end && *value >= '0' && *value <= '9'; value++) {
        if (number > (INT64_MAX - 9) / 10) return -1;
        number = number * 10 + (*value - '0');
    }
    return number;
}

Command command_read(const char *line, size_t length) {
    Command command = { .kind = COMMAND_NONE };
    const char *end = line + length;
    size_t word_length = 0;
    const char *word = command_string(command_value(line, length, "do"), end, &word_length);
    if (word == NULL) return command;
    if (word_length == 4 && memcmp(word, "mark", 4) == 0) {
        command.label = command_string(command_value(line, length, "label"), end, &command.label_length);
        if (command.label != NULL && command.label_length > 0 && command.label_length <= MOST_LABEL) command.kind = COMMAND_MARK;
        command.epoch_ms = command_number(command_value(line, length, "epochMs"), end);
    } else if (word_length == 7 && memcmp(word, "collect", 7) == 0) command.kind = COMMAND_COLLECT;
    else if (word_length == 9 && memcmp(word, "startOver", 9) == 0) command.kind = COMMAND_START_OVER;
    else if (word_length == 6 && memcmp(word, "births", 6) == 0) {
        const char *on = command_value(line, length, "on");
        command.kind = on != NULL && end - on >= 5 && memcmp(on, "false", 5) == 0 ? COMMAND_BIRTHS_OFF : COMMAND_BIRTHS_ON;
    } else if (word_length == 8 && memcmp(word, "interval", 8) == 0) {
        command.bytes = command_number(command_value(line, length, "bytes"), end);
        if (command.bytes > 0 && command.bytes <= (int64_t)1 << 30) command.kind = COMMAND_INTERVAL;
    } else if (word_length == 9 && memcmp(word, "inventory", 9) == 0) {
        const char *insist = command_value(line, length, "insist");
        command.kind = COMMAND_INVENTORY;
        command.insist = insist != NULL && end - insist >= 4 && memcmp(insist, "true", 4) == 0;
    } else if (word_length == 4 && memcmp(word, "stop", 4) == 0) command.kind = COMMAND_STOP;
    return command;
}
