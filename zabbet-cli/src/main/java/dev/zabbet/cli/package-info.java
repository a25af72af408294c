/**
 * The {@code zabbet} command: it parses arguments, calls the library and prints.
 *
 * <pre>{@code
 * int status = Zabbet.run(System.out, System.err, "schema", "--db", "jdbc:h2:mem:huts");
 * }</pre>
 */
@NullMarked
package dev.zabbet.cli;

import org.jspecify.annotations.NullMarked;
