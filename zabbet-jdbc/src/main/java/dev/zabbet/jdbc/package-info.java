/**
 * Stages over real databases.
 *
 * <p>The entry type is {@link dev.zabbet.jdbc.Jdbc}. Its one rule: nothing is written to a database that is not meant
 * for tests.
 *
 * <pre>{@code
 * import dev.zabbet.Stage;
 * import dev.zabbet.jdbc.Jdbc;
 * import dev.zabbet.row.Row;
 *
 * Stage stage = Jdbc.embedded("/db/huts.sql"); // the application's DDL on an embedded H2
 * StayDesk desk = new StayDesk(stays, guests, ledger, stage.clock()); // over stage.dataSource()
 * Row stay = stage.add("stay");
 * stage.act(() -> desk.cancel(stay.get("id", Long.class)));
 * }</pre>
 */
@NullMarked
package dev.zabbet.jdbc;

import org.jspecify.annotations.NullMarked;
