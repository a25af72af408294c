/**
 * Answers queries in the language of Jakarta Persistence and in SQL from objects and rows in memory. A query is read once, by
 * a parser of SQL, into {@link dev.zabbet.spring.internal.query.Value}s; {@link
 * dev.zabbet.spring.internal.query.QueryMethod} is the way in. What is not understood is refused when the query is read, never
 * when it runs.
 */
@NullMarked
package dev.zabbet.spring.internal.query;

import org.jspecify.annotations.NullMarked;
