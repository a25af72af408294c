/**
 * Personal values: which columns hold them, and what stands in their place. Everything here is a function of a secret and of the
 * value; nothing is kept between two extracts.
 */
@org.jspecify.annotations.NullMarked
package dev.zabbet.internal.mask;
