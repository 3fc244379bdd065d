/* Tests of what computes without a JVM, under sanitizers: `make check`. One line a failure; the last line counts. */
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "call_paths.h"
#include "command.h"
#include "events.h"
#include "follow.h"
#include "names.h"
#include "options.h"
#include "pace.h"
#include "sink.h"

static int passed, failed;

static void expect(bool holds, const char *sentence) {
    if (holds) passed++;
    else {
        failed++;
        printf("failed: %s\n", sentence);
    }
}

static void expect_text(Text *text, const char *wanted) {
    bool same = text->length == strlen(wanted) && (text->length == 0 || memcmp(text->bytes, wanted, text->length) == 0);
    if (same) passed++;
    else {
        failed++;
        printf("failed: expected %s, came %.*s\n", wanted, (int)text->length, text->bytes);
    }
    text_free(text);
}

static void expect_json(const char *bytes, size_t length, size_t most, const char *wanted) {
    Text text = { 0 };
    text_put_json(&text, bytes, length, most);
    expect_text(&text, wanted);
}

static void check_text(void) {
    Text text = { 0 };
    text_put_ms(&text, 12345678);
    text_put(&text, " ");
    text_put_ms(&text, -1499);
    text_put(&text, " ");
    text_put_uint(&text, UINT64_MAX);
    expect_text(&text, "12.346 -0.001 18446744073709551615");
    expect_json("a\"b\\c\n", 6, 100, "\"a\\\"b\\\\c\\u000a\"");
    expect_json("\xC3\xA9\xE2\x82\xAC\xF0\x9F\x8C\x8A", 9, 100, "\"\xC3\xA9\xE2\x82\xAC\xF0\x9F\x8C\x8A\"");
    /* The JVM's own form of NUL and of characters beyond the first plane. */
    expect_json("\xC0\x80\xED\xA0\xBC\xED\xBC\x8A", 8, 100, "\"\\u0000\\ud83c\\udf0a\"");
    expect_json("\xFFx\xE2\x82", 4, 100, "\"\\ufffdx\\ufffd\\ufffd\"");
    expect_json("\xC3\xA9\xC3\xA9", 4, 1, "\"\xC3\xA9\"");
    expect_json("", 0, 100, "\"\"");
}

static void expect_name(void (*name)(Text *, const char *), const char *given, const char *wanted) {
    Text text = { 0 };
    name(&text, given);
    expect_text(&text, wanted);
}

static void expect_method(const char *signature, const char *method, const char *wanted) {
    Text text = { 0 };
    names_method(&text, signature, method);
    expect_text(&text, wanted);
}

static void expect_file(const char *signature, const char *source, const char *wanted) {
    Text text = { 0 };
    names_file(&text, signature, source);
    expect_text(&text, wanted);
}

static void check_names(void) {
    expect_name(names_type, "[B", "byte[]");
    expect_name(names_type, "[[J", "long[][]");
    expect_name(names_type, "Ljava/lang/String;", "java.lang.String");
    expect_name(names_type, "[Ljava/util/HashMap$Node;", "java.util.HashMap.Node[]");
    expect_name(names_type, "Lweir/Gate$1;", "weir.Gate$1");
    expect_name(names_type, "Lweir/Gate$$Lambda$14.0x0000000800c03000;", "weir.Gate (lambda)");
    expect_name(names_type, "Lweir/Gate$$Lambda.0x0000000800c03000;", "weir.Gate (lambda)");
    expect_name(names_type, "Ljdk/proxy1/$Proxy12;", "jdk.proxy1.$Proxy");
    expect_name(names_type, "Lweir/Gate.0x0000000800c03000;", "weir.Gate (hidden)");
    expect_name(names_type, "Z", "boolean");
    expect_name(names_type, "", "?");
    expect_method("Lorg/saltmarsh/Gate;", "raise", "Gate.raise");
    expect_method("Lorg/saltmarsh/Gate$Motor;", "<init>", "Gate.Motor.<init>");
    expect_method("LWeir;", "lambda$raise$3", "Weir.raise (lambda)");
    expect_method("LWeir;", "lambda$new$0", "Weir.<init> (lambda)");
    expect_method("LWeir;", "lambda$static$0", "Weir.<clinit> (lambda)");
    expect_method("LWeir;", "lambda$", "Weir.lambda$");
    expect_file("Lorg/saltmarsh/Gate$Motor;", "Gate.java", "org/saltmarsh/Gate.java");
    expect_file("LGate;", NULL, "Gate.class");
    expect_file("La/Gate$$Lambda$14.0x08;", NULL, "a/Gate.class");
    expect(names_is_connector("LWeir$$Lambda$3.0x08;", "run"), "the class of a lambda connects");
    expect(names_is_connector("Ljava/lang/invoke/LambdaForm$MH.0x08;", "invoke"), "a method handle's form connects");
    expect(names_is_connector("LWeir;", "access$100"), "a synthetic accessor connects");
    expect(!names_is_connector("LWeir;", "lambda$raise$0"), "the body of a lambda is code");
    expect_name(names_own_prefix, "org.saltmarsh.weir.Main 10 --fixed", "org/saltmarsh/");
    expect_name(names_own_prefix, "weir.Main", "weir/");
    expect_name(names_own_prefix, "org.jruby.Main tide.rb", "!org/jruby/");
    expect_name(names_own_prefix, "bsh.Interpreter tide.bsh", "!bsh/");
    expect_name(names_own_prefix, "org.jrubytide.Main", "org/jrubytide/");
    expect_name(names_own_prefix, "app/org.saltmarsh.weir.Main", "org/saltmarsh/");
    expect_name(names_own_prefix, "Main 10", "");
    expect_name(names_own_prefix, "/srv/weir.jar x", "");
    expect_name(names_own_prefix, "jdk.compiler/com.sun.tools.javac.launcher.Main Weir.java 10", "");
    expect_name(names_own_prefix, "", "");
    expect_name(names_program, "org.saltmarsh.weir.Main 10", "org.saltmarsh.weir.Main");
    expect_name(names_program, "org.saltmarsh.weir.Keeper 10", "Keeper");
    expect_name(names_program, "Main", "Main");
    expect_name(names_program, "jdk.compiler/com.sun.tools.javac.Main -nowarn Weir.java", "com.sun.tools.javac.Main");
    expect_name(names_own_prefix, "net.quay.startup.Bootstrap start", "!net/quay/");
    expect_name(names_own_prefix, "net.quay.QuayWrapperMain build", "!net/quay/");
    expect_name(names_program, "/srv/weir.jar x", "weir.jar");
    expect_name(names_program, "jdk.compiler/com.sun.tools.javac.launcher.Main src/Weir.java 10", "Weir.java");
    expect_name(names_program, "", "java");
}

static void check_options(void) {
    Options options;
    char problem[OPTIONS_TEXT];
    expect(options_read(&options, "out=/tmp/a%2Cb,interval=4096,log=/tmp/gc-%p.log,collect=5000,cost=0,depth=7,census=1,own=org.saltmarsh;weir", problem), "good options are read");
    char log[64];
    snprintf(log, sizeof log, "/tmp/gc-%ld.log", (long)getpid());
    expect(strcmp(options.out, "/tmp/a,b") == 0 && strcmp(options.log, log) == 0, "escapes and the process id are resolved");
    expect(options.interval_bytes == 4096 && options.cost_ppm == 0 && options.depth == 7 && options.collect_ms == 5000 && options.census, "numbers are read");
    static const char *const bad[] = { "", "interval=4096", "out=/a,interval=0", "out=/a,interval=x", "out=/a,depth=5000", "out=/a,colour=blue", "out=/a,census=2", "out", "out=/a,,", "out=/a,interval=99999999999999999999" };
    for (size_t at = 0; at < sizeof bad / sizeof bad[0]; at++) expect(!options_read(&options, bad[at], problem) && strncmp(problem, "expected", 8) == 0, bad[at]);
    expect(!options_read(&options, NULL, problem), "no options at all");
    char *huge = malloc(20000);
    memset(huge, 'x', 19999);
    memcpy(huge, "out=", 4);
    huge[19999] = '\0';
    expect(!options_read(&options, huge, problem), "a value that is too long is refused");
    free(huge);
}

static CommandKind kind_of(const char *line) {
    return command_read(line, strlen(line)).kind;
}

static void check_commands(void) {
    Command mark = command_read("{\"do\":\"mark\",\"label\":\"a \\\"b\\\"\"}", 30);
    expect(mark.kind == COMMAND_MARK && mark.label_length == 7 && memcmp(mark.label, "a \\\"b\\\"", 7) == 0, "a label keeps its escapes");
    expect(kind_of("{\"do\": \"collect\"}") == COMMAND_COLLECT, "blanks are allowed");
    expect(kind_of("{\"do\":\"births\",\"on\":false}") == COMMAND_BIRTHS_OFF && kind_of("{\"do\":\"births\"}") == COMMAND_BIRTHS_ON, "births go on and off");
    Command interval = command_read("{\"do\":\"interval\",\"bytes\":65536}", 31);
    expect(interval.kind == COMMAND_INTERVAL && interval.bytes == 65536, "an interval has its bytes");
    expect(kind_of("{\"do\":\"stop\"}") == COMMAND_STOP, "stop");
    const char *insisting = "{\"do\":\"inventory\",\"insist\": true}";
    expect(command_read(insisting, strlen(insisting)).insist && kind_of("{\"do\":\"inventory\"}") == COMMAND_INVENTORY, "an inventory may be insisted on");
    static const char *const none[] = { "", "{", "{\"do\"", "{\"do\":", "{\"do\":\"", "{\"do\":\"mark\"}", "{\"do\":\"mark\",\"label\":\"", "{\"do\":\"mark\",\"label\":\"x", "{\"do\":\"interval\",\"bytes\":99999999999999999999}", "{\"do\":\"interval\",\"bytes\":0}", "{\"do\":\"dance\"}", "{\"label\":\"do\"}", "\\\"do\\\":\\\"stop\\\"" };
    for (size_t at = 0; at < sizeof none / sizeof none[0]; at++) expect(kind_of(none[at]) == COMMAND_NONE, none[at]);
}

static uint32_t add_frame(CallPaths *paths, uint64_t method, const char *words, uint32_t line) {
    Text function = { 0 }, file = { 0 };
    text_put(&function, words);
    text_put(&file, "Weir.java");
    uint32_t frame = call_paths_add_frame(paths, method, (int64_t)line * 10, &function, &file, line);
    text_free(&function);
    text_free(&file);
    return frame;
}

static void check_paths(void) {
    CallPaths paths;
    Text text = { 0 };
    call_paths_init(&paths);
    uint32_t main_frame = add_frame(&paths, 1, "Weir.main", 3);
    uint32_t raise_frame = add_frame(&paths, 2, "Weir.raise", 9);
    expect(add_frame(&paths, 7, "Weir.main", 3) == main_frame, "the same words are the same frame, whatever the method's id");
    expect(call_paths_known_frame(&paths, 2, 90) == raise_frame && call_paths_known_frame(&paths, 2, 91) == ID_NONE, "a place is known once it was added");
    uint32_t root = call_paths_child(&paths, ID_NONE, main_frame);
    uint32_t path = call_paths_child(&paths, root, raise_frame);
    expect(call_paths_child(&paths, root, raise_frame) == path, "the same path has one id");
    call_paths_tell(&paths, &text, "7");
    call_paths_tell(&paths, &text, "7");
    expect_text(&text, "{\"k\":\"frames\",\"h\":\"7\",\"first\":0,\"fn\":[\"Weir.main\",\"Weir.raise\"],\"file\":[\"Weir.java\",\"Weir.java\"],\"line\":[3,9],\"col\":[0,0]}\n"
        "{\"k\":\"paths\",\"h\":\"7\",\"first\":0,\"parent\":[-1,0],\"frame\":[0,1]}\n");
    for (uint32_t line = 10; line < 5000; line++) call_paths_child(&paths, path, add_frame(&paths, 2, "Weir.raise", line));
    call_paths_tell(&paths, &text, "7");
    size_t longest = 0;
    for (size_t at = 0, from = 0; at < text.length; at++) if (text.bytes[at] == '\n') {
        if (at - from > longest) longest = at - from;
        from = at + 1;
    }
    expect(paths.frames_told == 4992 && longest < 1000000, "many rows come in several lines");
    text_free(&text);
    call_paths_free(&paths);
}

static void check_events(void) {
    Events events = { 0 };
    Text text = { 0 };
    events_tell_births(&events, &text, "7");
    events_tell_deaths(&events, &text, "7", 0);
    expect(text.length == 0, "nothing happened, nothing is told");
    events_add_birth(&events, (Birth){ 5, 2000000, 24, 65536, 1, 2, 3 });
    events_add_birth(&events, (Birth){ 6, 1000000, 32, 65536, 1, 2, 3 });
    events_add_birth(&events, (Birth){ 7, 3000000, 16, 131072, 1, 2, 3 });
    events_add_death(&events, (Death){ 5, 4000000 });
    events_add_death(&events, (Death){ 6, 5000000 });
    events_tell_births(&events, &text, "7");
    events_tell_deaths(&events, &text, "7", 1000);
    expect_text(&text, "{\"k\":\"born\",\"h\":\"7\",\"from\":1.000,\"to\":2.000,\"interval\":65536,\"id\":[5,6],\"path\":[1,1],\"size\":[24,32],\"at\":[2.000,1.000],\"type\":[2,2],\"thread\":[3,3]}\n"
        "{\"k\":\"born\",\"h\":\"7\",\"from\":3.000,\"to\":3.000,\"interval\":131072,\"id\":[7],\"path\":[1],\"size\":[16],\"at\":[3.000],\"type\":[2],\"thread\":[3]}\n"
        "{\"k\":\"died\",\"h\":\"7\",\"from\":0.001,\"to\":4.000,\"id\":[5]}\n"
        "{\"k\":\"died\",\"h\":\"7\",\"from\":0.001,\"to\":5.000,\"id\":[6]}\n");
    events_free(&events);
}

static void check_files(void) {
    char name[] = "/tmp/heron-check-XXXXXX";
    int made = mkstemp(name);
    expect(made >= 0, "a scratch file");
    close(made);
    Sink sink;
    Text line = { 0 }, taken = { 0 };
    expect(sink_open(&sink, name), "a sink opens");
    text_put(&line, "one\ntwo\nhalf");
    sink_write(&sink, &line);
    Follow follow;
    follow_init(&follow, name);
    expect(follow_take(&follow, &taken, false) && taken.length == 8, "whole lines are taken");
    expect(!follow_take(&follow, &taken, false), "half a line waits");
    expect(follow_take(&follow, &taken, true) && taken.length == 4, "at the end it is taken");
    /* A file that cannot be written to any more: lines wait. */
    int good = sink.file;
    sink.file = open("/dev/full", O_WRONLY);
    sink_write(&sink, &line);
    expect(sink.waiting.length == 12, "what the file does not take waits");
    close(sink.file);
    sink.file = good;
    text_clear(&line);
    sink_write(&sink, &line);
    expect(sink.waiting.length == 0 && follow_take(&follow, &taken, true) && taken.length == 8, "and comes later");
    sink_close(&sink);
    follow_close(&follow);
    expect(!sink_open(&sink, "/nowhere/at/all"), "a file that cannot be is refused");
    follow_init(&follow, "/nowhere/at/all");
    expect(!follow_take(&follow, &taken, true), "a missing file has no lines");
    unlink(name);
    text_free(&line);
    text_free(&taken);
}

static void check_floor_pace(void) {
    FloorPace pace;
    const int64_t second = 1000000000;
    floor_pace_init(&pace, second);
    expect(pace.next_ns == second, "the first collection is forced when its time has come");
    floor_pace_spent(&pace, 1 * second, 10000000);
    expect(pace.next_ns == 2 * second, "a quick one leaves the pace as it was asked for");
    floor_pace_spent(&pace, 2 * second, 3 * second);
    expect(pace.next_ns == 3 * second, "one that met a machine that stood still changes nothing");
    floor_pace_spent(&pace, 9 * second, 200000000);
    expect(pace.next_ns == 19 * second, "of three the middle one counts");
    floor_pace_spent(&pace, 20 * second, second);
    expect(pace.next_ns == 70 * second, "slow ones, one after another, keep to a fiftieth of the time");
    floor_pace_spent(&pace, 70 * second, 1000000);
    floor_pace_spent(&pace, 71 * second, 1000000);
    expect(pace.next_ns == 72 * second, "what lies further back is forgotten");
}

static void check_pace(void) {
    Pace pace;
    pace_init(&pace, 65536, 30000);
    expect(pace_look(&pace, 1000000, 1000000000) == 65536, "a low cost changes nothing");
    expect(pace_look(&pace, 1000000 + 200000000, 2000000000) == 65536 * 8, "a cost of 20 % asks for an eighth of the samples");
    int64_t own_ns = 201000000, program_ns = 2000000000;
    for (int look = 0; look < 4; look++) expect(pace_look(&pace, own_ns += 1000000, program_ns += 1000000000) == 65536 * 8, "one calm look is not enough");
    expect(pace_look(&pace, own_ns += 1000000, program_ns += 1000000000) == 65536 * 4, "after five calm looks the interval is halved");
    for (int look = 0; look < 40; look++) pace_look(&pace, own_ns += 1000000, program_ns += 1000000000);
    expect(pace.interval_bytes == 65536, "and never goes below what was asked for");
    expect(pace_look(&pace, own_ns + 1000000000, program_ns + 1000000) == 65536, "a program that sleeps says nothing of cost");
    pace_init(&pace, 4096, 0);
    expect(pace_look(&pace, 900000000, 1000000000) == 4096, "without a cost it never adapts");
}

/* Whatever bytes come, nothing is read or written out of bounds: the sanitizers watch. */
static void check_noise(void) {
    unsigned state = 20261123;
    char bytes[64];
    for (int round = 0; round < 20000; round++) {
        size_t length = 0;
        state = state * 1664525u + 1013904223u;
        size_t wanted = state >> 8 & 31;
        while (length < wanted) {
            state = state * 1664525u + 1013904223u;
            static const char likely[] = "{\"do:mark,label[;L$/.0x19Lambda\\%=,p}";
            bytes[length++] = (state >> 30) != 0 ? likely[(state >> 16) % (sizeof likely - 1)] : (char)(state >> 20);
        }
        bytes[length] = '\0';
        Text text = { 0 };
        Options options;
        char problem[OPTIONS_TEXT];
        char *exact = malloc(length + 1);
        memcpy(exact, bytes, length + 1);
        names_type(&text, exact);
        names_method(&text, exact, exact);
        names_file(&text, exact, exact);
        names_own_prefix(&text, exact);
        names_program(&text, exact);
        (void)names_is_connector(exact, exact);
        (void)options_read(&options, exact, problem);
        char *bare = malloc(length == 0 ? 1 : length);
        memcpy(bare, bytes, length);
        text_put_json(&text, bare, length, 20);
        (void)command_read(bare, length);
        free(bare);
        free(exact);
        text_free(&text);
    }
    passed++;
}

int main(void) {
    check_text();
    check_names();
    check_options();
    check_commands();
    check_paths();
    check_events();
    check_files();
    check_pace();
    check_floor_pace();
    check_noise();
    printf("%d held, %d failed\n", passed, failed);
    return failed == 0 ? 0 : 1;
}
