package org.holtra.service.introducing;

/** A setup whose outlet introduces devices at the stand-in of a cloud. */
final class CloudSetup {

    static final String RECIPE = """
            find:
              right: read devices
              shape: {method: GET, path: /devices, query: {key: "${device.key}"}}
              id: answer.body.items[0].id
            taken:
              shape: {method: GET, path: /devices, query: {name: "${there.name}"}}
              found: size(answer.body.items) > 0
            create:
              right: create devices
              shape: {path: /devices, body: {key: "${device.key}", name: "${there.name}"}}
              id: answer.body.id
              secret: answer.body.token
            activate:
              shape: {method: PUT, path: "/devices/${there.id}/state", body: {active: true}}
            describe:
              shape:
                method: PUT
                path: "/devices/${there.id}/fields"
                body: {fields: "${model.fields}", site: "${device.facts.site}"}
            compare:
              shape: {method: GET, path: "/devices/${there.id}"}
              differs:
                renamed: answer.body.name != there.name
                disabled there: answer.body.state == 'disabled'
            remove:
              shape: {method: DELETE, path: "/devices/${there.id}"}
            list:
              shape: {method: GET, path: /devices}
              items: answer.body.items
              key: "item.key.startsWith('old-') ? item.key.substring(4) : item.key"
              idThere: item.id
              facts: {label: item.name}
            rights:
              - {right: read devices, shape: {method: GET, path: /devices}}
              - {right: create devices, shape: {path: /devices, body: {}}}
              - {right: write measurements, shape: {method: GET, path: /token}, granted: answer.body.rights}
            """;

    private CloudSetup() {}

    /** @param more of the recipe, a line each */
    static String of(int port, String more) {
        return """
                models:
                  station: {fields: {temperature: {unit: Cel, min: -40, max: 60}}}
                inlets:
                  i: {kind: http, at: {path: i, credential: sender}, device: data.id, unknown: {model: "'station'", facts: {site: "'north'"}}}
                outlets:
                  cloud:
                    kind: http
                    to: {url: "http://127.0.0.1:%d", credential: cloud}
                    price: {currency: "€", device: 0.5}
                    introduction:
                %s
                lanes:
                  up:
                    inlets: [i]
                    outlet: cloud
                    order: device
                    shape: {path: "/devices/${there.id}/measurements", body: {n: "${data.n}"}}
                """.formatted(port, (RECIPE + more).indent(6));
    }
}
