/** Rows and schemas written as text. */
module dev.zabbet.files {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires com.fasterxml.jackson.databind;
    requires org.snakeyaml.engine;
    requires org.apache.commons.csv;

    exports dev.zabbet.files;

    provides dev.zabbet.expect.RowNotation with
            dev.zabbet.files.MarkdownTable;
    provides dev.zabbet.seed.SeedNotation with
            dev.zabbet.files.DocumentNotation,
            dev.zabbet.files.CsvNotation,
            dev.zabbet.files.MarkdownNotation;
}
