package dev.zabbet.examples.spring;

import java.util.Objects;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What clients may ask for. */
@RestController
class HutsOverHttp {
    private final FrontDesk desk;

    HutsOverHttp(FrontDesk desk) {
        this.desk = desk;
    }

    /** What a client sends to book. */
    record Booking(long hutId, String guest, int nights) {}

    @PostMapping("/stays")
    @ResponseStatus(HttpStatus.CREATED)
    long book(@RequestBody Booking booking) {
        return Objects.requireNonNull(
                desk.book(booking.hutId(), booking.guest(), booking.nights()).getId());
    }

    @DeleteMapping("/stays/{stay}")
    void cancel(@PathVariable("stay") long stay) {
        desk.cancel(stay);
    }
}
