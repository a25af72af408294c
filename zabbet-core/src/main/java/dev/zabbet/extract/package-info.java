/**
 * Extracts: a small, referentially closed part of an existing database, written down as a seed. {@link dev.zabbet.extract.Extract}
 * says which rows, {@link dev.zabbet.extract.Masking} what becomes of personal values. Nothing is followed that was not asked for,
 * and parents always come along.
 *
 * <pre>{@code
 * import dev.zabbet.expect.Expected;
 * import dev.zabbet.extract.Extract;
 * import dev.zabbet.extract.Masking;
 *
 * Extract extract = Extract.rows("guest", 10)
 *         .where("guest", "born", Expected.below("2000-01-01"))
 *         .below("stay_guest")
 *         .without("*.booked_at");
 * Masking masking = Masking.standard().keep("hut.name");
 * }</pre>
 */
@org.jspecify.annotations.NullMarked
package dev.zabbet.extract;
