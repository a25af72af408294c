/** SQL scripts: split into statements, and rows written as INSERT statements. */
@NullMarked
package dev.zabbet.jdbc.internal.script;

import org.jspecify.annotations.NullMarked;
