/**
 * Rows written as text.
 *
 * <p>The entry type is {@link dev.zabbet.files.MarkdownTable}, which expectations find by themselves. Its one rule: a
 * plain cell is data, always; a code span is a matcher or null.
 *
 * <pre>{@code
 * stage.expect("stay").holdsOnly("""
 *         | status    | nights | cancelled_at |
 *         | CANCELLED | 2      | `not null`   |
 *         | CONFIRMED | 2      | `null`       |
 *         """);
 * }</pre>
 */
@NullMarked
package dev.zabbet.files;

import org.jspecify.annotations.NullMarked;
