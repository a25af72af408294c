package dev.zabbet.files;

import dev.zabbet.files.internal.CsvRows;
import dev.zabbet.row.Row;
import dev.zabbet.seed.StreamedRows;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Iterator;
import java.util.List;
import java.util.NoSuchElementException;
import java.util.Objects;
import java.util.Spliterator;
import java.util.Spliterators;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.jspecify.annotations.Nullable;

/**
 * Rows in CSV (RFC 4180), as expected rows: the first line names the columns, an empty field is null, {@code ""} is empty
 * text.
 *
 * <pre>{@code
 * stage.expect("stay").holdsOnly(Csv.rows(Path.of("expected/stay.csv")).toList());
 * stage.expect("stay").holdsOnlyInKeyOrder(Csv.rows(Path.of("expected/a-million-stays.csv")));
 * }</pre>
 */
public final class Csv {
    private Csv() {}

    /**
     * Reads the rows of a file, each when it is asked for. Close the stream where it is not read to its end.
     *
     * @param file the file
     * @return the rows, to be closed where they are not all read
     * @throws dev.zabbet.error.ZabbetException if the file cannot be read, then or later; the message says where
     */
    public static Stream<Row> rows(Path file) {
        CsvRows rows = CsvRows.of(file);
        StreamedRows.Reading reading = rows.read();
        List<String> columns = rows.columns();
        Iterator<Row> each = new Iterator<>() {
            private @Nullable String @Nullable [] next = reading.next();

            @Override
            public boolean hasNext() {
                return next != null;
            }

            @Override
            public Row next() {
                if (next == null) {
                    throw new NoSuchElementException();
                }
                @Nullable String[] values = Objects.requireNonNull(next);
                next = reading.next();
                return Row.of(columns, Arrays.copyOf(values, values.length, Object[].class));
            }
        };
        return StreamSupport.stream(Spliterators.spliteratorUnknownSize(each, Spliterator.ORDERED), false)
                .onClose(reading::close);
    }
}
