/** Benchmarks: whole jobs through a stage, beside plain JDBC doing the same work in the same run. */
@NullMarked
package dev.zabbet.bench;

import org.jspecify.annotations.NullMarked;
