/** Makers of values for columns of which nothing is said. */
@NullMarked
package dev.zabbet.internal.plan.value;

import org.jspecify.annotations.NullMarked;
