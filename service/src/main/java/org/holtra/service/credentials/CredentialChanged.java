package org.holtra.service.credentials;

/** A credential was saved or removed. */
public record CredentialChanged(String name) {}
