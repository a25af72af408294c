/** Stages in Spring tests: the context's database, its mappings, and the moments of a test's transaction. */
@NullMarked
package dev.zabbet.spring.internal.context;

import org.jspecify.annotations.NullMarked;
