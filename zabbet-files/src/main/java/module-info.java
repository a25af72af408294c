/** Rows and schemas written as text. */
module dev.zabbet.files {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires com.fasterxml.jackson.core;
    requires com.samskivert.jmustache;
    requires org.snakeyaml.engine;
    requires org.apache.commons.csv;

    exports dev.zabbet.files;
    exports dev.zabbet.files.internal to
            dev.zabbet.cli,
            dev.zabbet.serve;
    exports dev.zabbet.files.internal.suite to
            dev.zabbet.junit,
            dev.zabbet.cli;

    provides dev.zabbet.row.RowNotation with
            dev.zabbet.files.internal.MarkdownTable;
    provides dev.zabbet.seed.SeedNotation with
            dev.zabbet.files.internal.DocumentNotation,
            dev.zabbet.files.internal.CsvNotation,
            dev.zabbet.files.internal.MarkdownNotation;
}
