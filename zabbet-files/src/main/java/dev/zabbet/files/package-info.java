/**
 * Rows, expectations and schemas written as text: row documents in YAML and JSON, CSV, Markdown, diagrams.
 *
 * <p>The entry type is {@link dev.zabbet.files.RowDocument}; {@link dev.zabbet.files.internal.MarkdownTable} is found by expectations
 * themselves. The one rule: a string is data, always; what means more is an object with a reserved name, or a code span.
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
