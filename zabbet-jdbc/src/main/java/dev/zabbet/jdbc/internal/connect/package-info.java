/** Connections: where they come from, what each begins with, and URLs as messages show them. */
@NullMarked
package dev.zabbet.jdbc.internal.connect;

import org.jspecify.annotations.NullMarked;
