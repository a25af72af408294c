/**
 * What makes a row valid: tables, columns, keys, references and checks, wherever they were read.
 *
 * <p>The entry type is {@link dev.zabbet.schema.Schema}. Its one rule: a schema is plain, immutable data and never
 * talks to a database. Names are those that a person writes; where a database ignores case they are in lower case, and
 * {@code sqlName} keeps the exact spelling.
 *
 * <pre>{@code
 * import dev.zabbet.schema.Schema;
 * import dev.zabbet.schema.Table;
 *
 * Schema schema = Schema.of(Hut.class, Stay.class);
 * Table stay = schema.require("stay");
 * boolean optional = stay.requireColumn("cancelled_at").nullable();
 * for (Table table : schema.storingOrder().tables()) {
 *     System.out.println(table.name()); // parents before children
 * }
 * }</pre>
 */
@NullMarked
package dev.zabbet.schema;

import org.jspecify.annotations.NullMarked;
