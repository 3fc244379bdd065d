/* Names of classes, methods and files as an engineer reads them. */
#ifndef HERON_NAMES_H
#define HERON_NAMES_H

#include <stdbool.h>
#include <stddef.h>

#include "text.h"

/*
 * A type by its class signature: `[B` is `byte[]`, `Ljava/util/HashMap$Node;` is `java.util.HashMap.Node`. Classes made
 * at run time lose their counters and addresses, so that their number stays bounded: `weir.Gate (lambda)`.
 */
void names_type(Text *into, const char *signature);

/*
 * A method with its class, without the package: `Gate.raise`, the body of a lambda as `Gate.raise (lambda)`.
 */
void names_method(Text *into, const char *class_signature, const char *method);

/* A file with its package: `org/saltmarsh/Gate.java`. `source` may be NULL; the class file is named then. */
void names_file(Text *into, const char *class_signature, const char *source);

/* True for a frame that only connects two others: the class of a lambda, a method handle's form, an accessor. */
bool names_is_connector(const char *class_signature, const char *method);

/*
 * The first two parts of the main class's package as a file prefix, `org/saltmarsh/`, from what was started
 * (`org.saltmarsh.weir.Main …`, `app.jar`, `jdk.compiler/… Weir.java`). Empty when it has no package.
 */
void names_own_prefix(Text *into, const char *command);

/* What the program is called in lists, from what was started: `Main`, `app.jar`, `Weir.java`. */
void names_program(Text *into, const char *command);

#endif
