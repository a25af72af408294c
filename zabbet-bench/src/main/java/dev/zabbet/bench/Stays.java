package dev.zabbet.bench;

import dev.zabbet.Stage;
import dev.zabbet.factory.Bulk;
import dev.zabbet.factory.Factory;
import dev.zabbet.row.Row;
import dev.zabbet.store.RowSource;
import java.math.BigDecimal;
import java.sql.Date;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.LocalDate;
import java.util.Objects;

/** The rows that a stage would store, as plain values: who loads them by hand has the same to do. */
record Stays(long[] hut, int[] room, Date[] arrives, int[] nights, String[] status, BigDecimal[] price) {
    static final String COLUMNS = "id, hut_id, room_number, arrives, nights, status, price, booked_at";
    private static final int FIRST = 10_000_000;
    private static final Timestamp BOOKED_AT = Timestamp.valueOf("2031-07-01 08:00:00");

    static Stays of(Stage stage, Factory<Row> factory, int rows) {
        RowSource source = stage.planned(Bulk.of(rows, factory)).inserts().get(0);
        int[] at = new int[6];
        String[] names = {"hut_id", "room_number", "arrives", "nights", "status", "price"};
        for (int i = 0; i < names.length; i++) {
            at[i] = source.columns().indexOf(source.table().requireColumn(names[i]));
        }
        Stays stays = new Stays(
                new long[rows], new int[rows], new Date[rows], new int[rows], new String[rows], new BigDecimal[rows]);
        for (int i = 0; i < rows; i++) {
            stays.hut[i] = number(source, i, at[0]).longValue();
            stays.room[i] = number(source, i, at[1]).intValue();
            stays.arrives[i] = Date.valueOf((LocalDate) Objects.requireNonNull(source.value(i, at[2])));
            stays.nights[i] = number(source, i, at[3]).intValue();
            stays.status[i] = String.valueOf(source.value(i, at[4]));
            stays.price[i] = (BigDecimal) Objects.requireNonNull(source.value(i, at[5]));
        }
        return stays;
    }

    private static Number number(RowSource source, int row, int column) {
        return (Number) Objects.requireNonNull(source.value(row, column));
    }

    int size() {
        return hut.length;
    }

    void bind(PreparedStatement statement, int offset, int i) throws SQLException {
        statement.setLong(offset + 1, FIRST + i);
        statement.setLong(offset + 2, hut[i]);
        statement.setInt(offset + 3, room[i]);
        statement.setDate(offset + 4, arrives[i]);
        statement.setInt(offset + 5, nights[i]);
        statement.setString(offset + 6, status[i]);
        statement.setBigDecimal(offset + 7, price[i]);
        statement.setTimestamp(offset + 8, BOOKED_AT);
    }

    /** Adds a row as COPY and LOAD DATA take it. */
    void line(StringBuilder text, int i) {
        text.append(FIRST + i)
                .append('\t')
                .append(hut[i])
                .append('\t')
                .append(room[i])
                .append('\t')
                .append(arrives[i])
                .append('\t')
                .append(nights[i])
                .append('\t')
                .append(status[i])
                .append('\t')
                .append(price[i])
                .append("\t2031-07-01 08:00:00\n");
    }
}
