package dev.zabbet.serve;

import dev.zabbet.factory.Payload;
import dev.zabbet.factory.Through;
import dev.zabbet.internal.text.Words;
import dev.zabbet.row.Row;
import dev.zabbet.schema.Schema;
import dev.zabbet.schema.Table;
import dev.zabbet.seed.SeedReceiver;
import dev.zabbet.serve.internal.deliver.ApiDelivery;
import java.util.List;
import java.util.function.BiPredicate;

/**
 * An application's HTTP API, by which it stores a seed itself: {@code stage.deliver(seed, HttpApi.read("api.yaml"))}. Its OpenAPI
 * document says which operations there are; a mapping file says what the document does not: where the document and the application
 * are, what is sent along, and where names differ.
 *
 * <p>Not thread-safe; one delivery sends several requests at a time.
 */
public final class HttpApi implements SeedReceiver {
    private final ApiDelivery delivery;

    private HttpApi(ApiDelivery delivery) {
        this.delivery = delivery;
    }

    /**
     * Reads a mapping file.
     *
     * @param mapping a file, or a resource on the class path, in YAML or JSON
     * @return the API; nothing is sent yet
     * @throws dev.zabbet.error.ZabbetException if it cannot be read; the message says where
     */
    public static HttpApi read(String mapping) {
        return new HttpApi(ApiDelivery.read(Words.notNull(mapping, "mapping", "HttpApi.read")));
    }

    /**
     * {@return the same API of the application at another place}
     *
     * @param url where it is, such as {@code http://localhost:8080}
     */
    public HttpApi at(String url) {
        return new HttpApi(delivery.at(Words.notNull(url, "url", "HttpApi.at")));
    }

    /**
     * Creates the rows by the operations of the document, each when those that it refers to are there. If one is refused, what was
     * created before is deleted again, where there is an operation for that.
     *
     * @throws dev.zabbet.error.ZabbetException if an operation is not known, and nothing is sent then; or if a row is refused: with
     *     place, request and answer, and with what remains
     */
    @Override
    public List<Row> receive(Schema schema, List<Item> rows, BiPredicate<Table, Row> isStored) {
        return delivery.receive(schema, rows, isStored);
    }

    /**
     * {@return an operation as the code that stores what a factory makes: {@code stage.add(3, bookings.through(api.operation("book")))}}
     * Each property of the object goes into the field or path parameter that is called the same, but for capitals and separators. What
     * it returns is the answer as maps, lists, text, numbers, truth values and null; an empty map where there is none.
     *
     * @param <T> what the factory makes
     * @param name the operation: its operationId, or method and path
     */
    public <T> Through.Storing<T, Object> operation(String name) {
        Words.notNull(name, "name", "HttpApi.operation");
        return object -> delivery.send(name, Payload.of(object, Payload.Naming.CAMEL));
    }

    /** {@return the columns of the delivered tables that the API does not take, so that the application filled them} */
    public List<String> leftOut() {
        return delivery.leftOut();
    }
}
