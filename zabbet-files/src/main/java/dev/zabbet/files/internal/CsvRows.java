package dev.zabbet.files.internal;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.seed.SourceLocation;
import dev.zabbet.seed.StreamedRows;
import java.io.BufferedReader;
import java.io.FilterReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.MalformedInputException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Iterator;
import java.util.List;
import org.apache.commons.csv.CSVParser;
import org.apache.commons.csv.CSVRecord;
import org.jspecify.annotations.Nullable;

/** The rows of a large CSV file, read row by row. */
public final class CsvRows implements StreamedRows {
    private static final int MOST_CHARACTERS = 16 << 20; // of one row

    private final Path file;
    private final List<String> columns;

    private CsvRows(Path file, List<String> columns) {
        this.file = file;
        this.columns = columns;
    }

    public static CsvRows of(Path file) {
        try (Lines lines = new Lines(file)) {
            return new CsvRows(file, lines.columns);
        }
    }

    @Override
    public String table() {
        return CsvNotation.tableOf(file.toString());
    }

    @Override
    public List<String> columns() {
        return columns;
    }

    @Override
    public SourceLocation place() {
        return new SourceLocation(file + ", line 1", String.join(",", columns));
    }

    @Override
    public Reading read() {
        return new Lines(file);
    }

    private static final class Lines implements Reading {
        private final Path file;
        private final Limited text;
        private final CSVParser parser;
        private final Iterator<CSVRecord> records;
        private final List<String> columns;
        private long line;

        Lines(Path file) {
            this.file = file;
            try {
                this.text = new Limited(Files.newBufferedReader(file, StandardCharsets.UTF_8));
                this.parser = CSVParser.parse(text, CsvNotation.FORMAT);
                this.records = parser.iterator();
            } catch (IOException e) {
                throw cannot(e);
            }
            CSVRecord first = record();
            if (first == null) {
                throw new ZabbetException(file + ", line 1: the first line names the columns, and the file is empty.");
            }
            this.columns = CsvNotation.header(file.toString(), first);
        }

        @Override
        public @Nullable String @Nullable [] next() {
            CSVRecord record = record();
            if (record == null) {
                return null;
            }
            for (String field : record) {
                requireText(field);
            }
            if (record.size() != columns.size()) {
                CsvNotation.requireFields(file + ", line " + line, columns, record);
            }
            return record.values();
        }

        private void requireText(@Nullable String field) {
            if (field != null) {
                ControlCharacters.refuse(file + ", line " + line + ", a field", field);
            }
        }

        private @Nullable CSVRecord record() {
            text.left = MOST_CHARACTERS;
            line = parser.getCurrentLineNumber() + 1;
            try {
                return records.hasNext() ? records.next() : null;
            } catch (UncheckedIOException e) {
                throw cannot(new IOException(e.getMessage(), e));
            } catch (IllegalStateException e) {
                throw e.getCause() instanceof IOException io ? cannot(io) : e;
            }
        }

        private ZabbetException cannot(IOException e) {
            return isMalformed(e)
                    ? new ZabbetException("'" + file + "' is not written in UTF-8.", e)
                    : new ZabbetException(
                            file + ", from line " + line + ": the file cannot be read as CSV: " + e.getMessage() + ".",
                            e);
        }

        private static boolean isMalformed(Throwable e) {
            Throwable cause = e.getCause();
            return e instanceof MalformedInputException || (cause != null && isMalformed(cause));
        }

        @Override
        public SourceLocation at() {
            return new SourceLocation(file + ", line " + line, "");
        }

        @Override
        public void close() {
            try {
                parser.close();
            } catch (IOException e) {
                throw cannot(e);
            }
        }
    }

    /** Refuses a row without an end, and leaves out the mark of a text's beginning. */
    private static final class Limited extends FilterReader {
        private long left = MOST_CHARACTERS;

        Limited(BufferedReader in) throws IOException {
            super(in);
            in.mark(1);
            if (in.read() != '\uFEFF') {
                in.reset();
            }
        }

        @Override
        public int read(char[] into, int offset, int length) throws IOException {
            int read = super.read(into, offset, length);
            left -= Math.max(0, read);
            if (left < 0) {
                throw new IOException(
                        "a row has more than " + MOST_CHARACTERS + " characters; a quote may lack its end");
            }
            return read;
        }

        @Override
        public int read() throws IOException {
            char[] one = new char[1];
            return read(one, 0, 1) < 0 ? -1 : one[0];
        }
    }
}
