/**
 * What Zabbet throws when something cannot be done.
 *
 * <p>The root is {@link dev.zabbet.error.ZabbetException}; its few subclasses carry what was found as typed values, so
 * that nobody parses a message.
 *
 * <p>One rule tells which exception a call throws. An argument that is null and must not be: {@link NullPointerException}, naming
 * it. One that is wrong whatever the schema and the stored rows are, such as a count below 1 or no row where one is needed: {@link
 * IllegalArgumentException}, with the argument, what was found and what is allowed. All else, from unknown names to rows that a
 * constraint refuses: {@link dev.zabbet.error.ZabbetException}. In each case nothing has been stored or changed by the call.
 *
 * <p>A failed expectation is no error of this kind: it is an {@link AssertionError}.
 */
@NullMarked
package dev.zabbet.error;

import org.jspecify.annotations.NullMarked;
