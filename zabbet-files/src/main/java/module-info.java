/** Rows and schemas written as text. */
module dev.zabbet.files {
    requires static org.jspecify;
    requires transitive dev.zabbet.core;
    requires com.fasterxml.jackson.databind;

    exports dev.zabbet.files;

    provides dev.zabbet.expect.RowNotation with
            dev.zabbet.files.MarkdownTable;
}
