package dev.zabbet.factory;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import java.time.Clock;
import java.time.Instant;
import java.time.ZoneOffset;

/** Makes objects where there is no store: the schema is read off the type. */
final class StandAlone {
    private static final Clock CLOCK = Clock.fixed(Instant.parse("2031-07-01T08:00:00Z"), ZoneOffset.UTC);

    private StandAlone() {}

    static <T> T build(Factory<T> factory) {
        if (factory.type() == Row.class) {
            throw new ZabbetException("A row of " + factory.table()
                    + " cannot be built without a schema; use stage.build(factory), or a factory for a type.");
        }
        Schema schema = Schema.of(factory.type());
        Factory<T> own = factory.inTable(schema.tables().get(0).name());
        Plan plan = Plan.of(schema, 0, CLOCK, 1, own, (table, rows) -> 1L);
        return Made.objects(plan, own, true).get(0);
    }
}
