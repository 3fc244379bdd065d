#include "names.h"

#include <ctype.h>
#include <string.h>

/* What compilers and runtimes put into the names of classes that they make while the program runs. */
static const char *const LAMBDA = "$$Lambda";
static const char *const MADE[] = { "$$Lambda", "$$StringConcat", "$$InjectedInvoker", "$$EnhancerBy", "$$FastClassBy", "$$SpringCGLIB", "$$ByteBuddy" };
#define MADE_COUNT (sizeof MADE / sizeof MADE[0])

static const char *const CONNECTORS[] = {
    "Ljava/lang/invoke/LambdaForm", "Ljava/lang/invoke/Invokers$Holder", "Ljava/lang/invoke/DirectMethodHandle$Holder",
    "Ljava/lang/invoke/DelegatingMethodHandle$Holder", "Ljdk/internal/reflect/Generated", "Ljdk/internal/reflect/DirectMethodHandleAccessor",
    "Ljdk/internal/reflect/NativeMethodAccessorImpl", "Ljdk/internal/reflect/DelegatingMethodAccessorImpl",
};
#define CONNECTOR_COUNT (sizeof CONNECTORS / sizeof CONNECTORS[0])

static bool starts_with(const char *text, const char *head) {
    return strncmp(text, head, strlen(head)) == 0;
}

/* Length of the class's own name inside `name`: without what was generated behind it. */
static size_t names_stable_length(const char *name, size_t length, const char **suffix) {
    *suffix = "";
    for (size_t kind = 0; kind < MADE_COUNT; kind++) {
        const char *made = strstr(name, MADE[kind]);
        if (made == NULL || made >= name + length) continue;
        *suffix = MADE[kind] == LAMBDA ? " (lambda)" : " (generated)";
        return (size_t)(made - name);
    }
    /* A hidden class carries its address behind a dot (JDK 17) or a slash followed by 0x. */
    const char *address = strstr(name, ".0x");
    if (address == NULL) address = strstr(name, "/0x");
    if (address != NULL && address < name + length) {
        *suffix = " (hidden)";
        length = (size_t)(address - name);
    }
    size_t digits = length;
    while (digits > 0 && isdigit((unsigned char)name[digits - 1])) digits--;
    bool proxy = digits >= 6 && digits < length && strncmp(name + digits - 6, "$Proxy", 6) == 0;
    bool accessor = digits >= 8 && digits < length && strncmp(name + digits - 8, "Accessor", 8) == 0;
    return proxy || accessor ? digits : length;
}

/* Writes a class name with dots for slashes, and for the dollars before nested classes that have names. */
static void names_put_class(Text *into, const char *name, size_t length) {
    const char *suffix;
    size_t stable = names_stable_length(name, length, &suffix);
    for (size_t at = 0; at < stable; at++) {
        bool nested = name[at] == '$' && at > 0 && at + 1 < stable && name[at - 1] != '/' && isalpha((unsigned char)name[at + 1]);
        char one = name[at] == '/' || nested ? '.' : name[at];
        text_add(into, &one, 1);
    }
    text_put(into, suffix);
}

static const char *names_primitive(char kind) {
    switch (kind) {
        case 'B': return "byte";
        case 'C': return "char";
        case 'D': return "double";
        case 'F': return "float";
        case 'I': return "int";
        case 'J': return "long";
        case 'S': return "short";
        case 'Z': return "boolean";
        default: return "?";
    }
}

void names_type(Text *into, const char *signature) {
    size_t depth = 0;
    while (signature[depth] == '[') depth++;
    const char *element = signature + depth;
    size_t length = strlen(element);
    if (element[0] == 'L' && length > 2) names_put_class(into, element + 1, length - 2);
    else text_put(into, names_primitive(element[0]));
    for (size_t at = 0; at < depth; at++) text_put(into, "[]");
}

/* The part of a class signature behind its package, with its length. */
static const char *names_simple(const char *signature, size_t *length) {
    const char *name = signature[0] == 'L' ? signature + 1 : signature;
    size_t whole = strlen(name);
    if (whole > 0 && name[whole - 1] == ';') whole--;
    const char *suffix;
    size_t stable = names_stable_length(name, whole, &suffix);
    const char *simple = name;
    for (const char *at = name; at < name + stable; at++) if (*at == '/') simple = at + 1;
    *length = whole - (size_t)(simple - name);
    return simple;
}

void names_method(Text *into, const char *class_signature, const char *method) {
    size_t length;
    const char *simple = names_simple(class_signature, &length);
    names_put_class(into, simple, length);
    text_put(into, ".");
    /* javac names the body of a lambda in `raise` lambda$raise$0. */
    if (starts_with(method, "lambda$")) {
        const char *outer = method + 7;
        const char *end = strrchr(outer, '$');
        if (end != NULL && end > outer) {
            /* Of a constructor and of a class's own initialisation it is lambda$new$0 and lambda$static$0. */
            if (end - outer == 3 && strncmp(outer, "new", 3) == 0) text_put(into, "<init>");
            else if (end - outer == 6 && strncmp(outer, "static", 6) == 0) text_put(into, "<clinit>");
            else text_add(into, outer, (size_t)(end - outer));
            text_put(into, " (lambda)");
            return;
        }
    }
    text_put(into, method);
}

void names_file(Text *into, const char *class_signature, const char *source) {
    size_t length;
    const char *name = class_signature[0] == 'L' ? class_signature + 1 : class_signature;
    const char *simple = names_simple(class_signature, &length);
    text_add(into, name, (size_t)(simple - name));
    if (source != NULL && source[0] != '\0') {
        text_put(into, source);
        return;
    }
    const char *suffix;
    text_add(into, simple, names_stable_length(simple, length, &suffix));
    text_put(into, ".class");
}

bool names_is_connector(const char *class_signature, const char *method) {
    if (strstr(class_signature, LAMBDA) != NULL || starts_with(method, "access$")) return true;
    for (size_t at = 0; at < CONNECTOR_COUNT; at++) if (starts_with(class_signature, CONNECTORS[at])) return true;
    return false;
}

/* The first word of the command that names something of the user's; its end in `end`. */
static const char *names_main_word(const char *command, const char **end) {
    const char *from = command;
    for (;;) {
        while (*from == ' ') from++;
        const char *to = from;
        while (*to != '\0' && *to != ' ') to++;
        *end = to;
        /* The launcher of single source files stands before the file's name. */
        if (!starts_with(from, "jdk.compiler/com.sun.tools.javac.launcher.") || *to == '\0') return from;
        from = to;
    }
}

/* True when the main class's own name, from `from` to before `end`, is one of the words or, with `as_end`, ends in one. */
static bool names_is_one_of(const char *from, const char *end, const char *const *words, size_t count, bool as_end) {
    size_t length = (size_t)(end - from);
    for (size_t at = 0; at < count; at++) {
        size_t wanted = strlen(words[at]);
        if ((length == wanted || (as_end && length > wanted)) && strncmp(end - wanted, words[at], wanted) == 0) return true;
    }
    return false;
}

/* Classes that start what was deployed or what a script asks for: their packages are the tool's, and the engineer's code is what else there is. */
static const char *const STARTERS[] = { "Bootstrap", "Launcher", "Starter", "Daemon", "WrapperMain", "LauncherMain" };
/* Packages of what runs scripts: the engineer's code is the script. */
static const char *const ENGINES[] = { "org.jruby.", "org.python.", "org.mozilla.javascript.", "org.codehaus.groovy.", "groovy.", "clojure.", "bsh.", "jdk.nashorn.", "org.openjdk.nashorn.", "org.jetbrains.kotlin." };
/* Names that say nothing without their package. */
static const char *const PLAIN[] = { "Main", "App", "Application", "Bootstrap", "Launcher", "Start", "Starter", "Server", "Runner" };

void names_own_prefix(Text *into, const char *command) {
    const char *end;
    const char *word = names_main_word(command, &end);
    size_t length = (size_t)(end - word);
    if ((length > 4 && strncmp(end - 4, ".jar", 4) == 0) || (length > 5 && strncmp(end - 5, ".java", 5) == 0)) return;
    const char *slash = memchr(word, '/', length);
    if (slash != NULL) word = slash + 1;
    const char *last = NULL;
    for (const char *at = word; at < end; at++) if (*at == '.') last = at;
    if (last == NULL) return;
    bool tool = names_is_one_of(last + 1, end, STARTERS, sizeof STARTERS / sizeof STARTERS[0], true);
    for (size_t at = 0; at < sizeof ENGINES / sizeof ENGINES[0]; at++) tool = tool || starts_with(word, ENGINES[at]);
    if (tool) text_put(into, "!");
    size_t parts = 0;
    for (const char *at = word; at <= last && parts < 2; at++) {
        char one = *at == '.' ? '/' : *at;
        if (*at == '.') parts++;
        text_add(into, &one, 1);
    }
}

void names_program(Text *into, const char *command) {
    const char *end;
    const char *word = names_main_word(command, &end);
    const char *from = word;
    for (const char *at = word; at < end; at++) if (*at == '/') from = at + 1;
    bool file = (end - from > 4 && strncmp(end - 4, ".jar", 4) == 0) || (end - from > 5 && strncmp(end - 5, ".java", 5) == 0);
    const char *simple = from;
    if (!file) for (const char *at = from; at < end; at++) if (*at == '.') simple = at + 1;
    if (!names_is_one_of(simple, end, PLAIN, sizeof PLAIN / sizeof PLAIN[0], false)) from = simple;
    if (end == from) text_put(into, "java");
    else text_add(into, from, (size_t)(end - from));
}
