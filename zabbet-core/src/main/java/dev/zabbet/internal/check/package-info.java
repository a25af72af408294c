/**
 * The conditions of check constraints: read from the text that a database reports, evaluated over a row, and asked which
 * values they allow. Conditions follow SQL's three-valued logic (ISO 9075): a check is kept unless it is false.
 */
@NullMarked
package dev.zabbet.internal.check;

import org.jspecify.annotations.NullMarked;
