/** Two ways to know which rows changed and to undo it: a journal that triggers write, and a comparison. */
@NullMarked
package dev.zabbet.jdbc.internal.track;

import org.jspecify.annotations.NullMarked;
