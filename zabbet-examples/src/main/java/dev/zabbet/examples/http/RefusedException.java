package dev.zabbet.examples.http;

/** A request that the application does not do. */
final class RefusedException extends RuntimeException {
    private static final long serialVersionUID = 1L;
    private final int status;

    RefusedException(int status, String message) {
        super(message);
        this.status = status;
    }

    int status() {
        return status;
    }
}
