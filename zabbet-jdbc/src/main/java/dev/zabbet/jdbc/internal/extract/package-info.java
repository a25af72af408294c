/** Extracts: which rows of a database belong to one, found by keys and indexes in one snapshot that is only read. */
@org.jspecify.annotations.NullMarked
package dev.zabbet.jdbc.internal.extract;
