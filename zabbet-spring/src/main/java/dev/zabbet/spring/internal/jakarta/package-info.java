/**
 * What fakes of Jakarta Data's repositories do: queries by parameters and in its query language, pages, limits and orders.
 * {@link dev.zabbet.spring.internal.jakarta.JakartaDataSupport} is found by fakes.
 */
@NullMarked
package dev.zabbet.spring.internal.jakarta;

import org.jspecify.annotations.NullMarked;
