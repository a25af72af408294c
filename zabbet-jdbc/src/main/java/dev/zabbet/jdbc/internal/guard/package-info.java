/** Never the wrong database, and one stage at a time: the mark, the lease, and what a stage leaves for the next one. */
@NullMarked
package dev.zabbet.jdbc.internal.guard;

import org.jspecify.annotations.NullMarked;
