/**
 * What Zabbet throws when something cannot be done.
 *
 * <p>The root is {@link dev.zabbet.error.ZabbetException}; its few subclasses carry what was found as typed values, so
 * that nobody parses a message. A failed expectation is no error of this kind: it is an {@link AssertionError}.
 */
@NullMarked
package dev.zabbet.error;

import org.jspecify.annotations.NullMarked;
