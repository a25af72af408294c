/** JSON Schema, draft 2020-12: read, and values checked against it. */
@NullMarked
package dev.zabbet.internal.jsonschema;

import org.jspecify.annotations.NullMarked;
