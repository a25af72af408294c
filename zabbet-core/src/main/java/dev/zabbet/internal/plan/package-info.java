/** Plans: which rows stand in for what a factory says, in which order, and where each value comes from. */
@NullMarked
package dev.zabbet.internal.plan;

import org.jspecify.annotations.NullMarked;
