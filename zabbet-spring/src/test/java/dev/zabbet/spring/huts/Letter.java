package dev.zabbet.spring.huts;

import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;

/** What a guest was told. */
@Entity
public class Letter {
    @Id
    @GeneratedValue(strategy = GenerationType.IDENTITY)
    private Long id;

    private String text;

    protected Letter() {}

    public Long getId() {
        return id;
    }

    public String getText() {
        return text;
    }
}
