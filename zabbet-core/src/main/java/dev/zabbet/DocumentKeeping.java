package dev.zabbet;

import dev.zabbet.error.ZabbetException;
import dev.zabbet.factory.Document;
import dev.zabbet.internal.plan.StoredDocuments;
import dev.zabbet.internal.plan.document.DocumentRecipe;
import dev.zabbet.internal.text.Words;
import dev.zabbet.schema.Column;
import dev.zabbet.schema.Table;
import dev.zabbet.store.Store;
import dev.zabbet.type.Kind;

/** Notes what the documents of a stage's columns look like. */
final class DocumentKeeping {
    private DocumentKeeping() {}

    static void put(Store store, String tableName, String columnName, Document documents) {
        Table table = store.schema().require(Words.notNull(tableName, "table", "Stage.documents"));
        Column column = table.requireColumn(Words.notNull(columnName, "column", "Stage.documents"));
        if (column.type().kind() != Kind.JSON) {
            throw new ZabbetException(table.name() + "." + column.name() + " is "
                    + column.type().sqlName() + " and holds no documents; only columns of JSON do.");
        }
        DocumentRecipe recipe = DocumentRecipe.of(documents).orElseThrow();
        for (DocumentRecipe.Reference reference : recipe.references()) {
            Table target = store.schema().require(reference.table());
            if (target.keyColumns().size() != 1) {
                throw new ZabbetException(table.name() + "." + column.name() + reference.path() + " refers to "
                        + target.name() + ", whose key has "
                        + target.keyColumns().size()
                        + " columns: a place in a document holds one value.");
            }
        }
        StoredDocuments.of(store).put(table, column, recipe);
    }
}
