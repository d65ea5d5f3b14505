"""Words by what they say on a page, in the languages of the pages that people collect from.

Those that name nothing, those that stand over names, and those that lead on. One phrase between two bars, or to a line.
"""

PHRASES = {
    "buttons": """
buy | buy now | add | add to cart | add to basket | add to bag | add to wishlist | wishlist | order | order now
order this | view all | see all | show all | all | show more | load more | visit website | website | enlarge
click to enlarge | zoom | full size | download | share | save | like | follow | reply | edit | delete | remove
discover | discover more | explore | explore more | print | print this page | send to a friend | tell a friend | bookmark | add to favorites | add to favourites
compare | quick view | quickview | select options | choose | choose options | preview | play | watch | next | previous
prev | back | close | menu | search | subscribe | sign in | log in | sign up | contact | email | e-mail | call | book
rollover to zoom | roll over to zoom | mouse over to zoom | select color | select colour | choose color | choose colour
choose a color | choose a colour | farbe wählen | produkte zeigen | zu den angeboten | jetzt ansehen
book now | reserve | bid | bid now | shop now | shop | get it | try | try it | demo | source | link | permalink
kaufen | jetzt kaufen | in den warenkorb | zum warenkorb | bestellen | herunterladen | teilen | alle anzeigen | weiter
zurück | vorherige | vorheriger | vorheriges | nächster | nächstes | acheter | ajouter au panier
télécharger | partager | suivant | précédent | comprar | añadir al carrito
descargar | compartir | siguiente | anterior | adicionar ao carrinho | acquista | aggiungi al carrello | koop
in winkelwagen | köp | kjøp | køb | osta | kup teraz | do koszyka | dodaj do koszyka | koupit | do košíku | купить
в корзину | ещё | lägg i varukorgen | lägg i varukorg | læg i kurv | læg i kurven | legg i handlekurven | kjøp nå | lisää ostoskoriin
vložit do košíku | přidat do košíku | vložiť do košíka | pridať do košíka | kosárba | kosárba teszem | adaugă în coș | добави в количката
προσθήκη στο καλάθι | αγορά | sepete ekle | satın al | додати в кошик | до кошика | купити | dodaj u košaricu | u košaricu
v košarico | dodaj v košarico | lisa ostukorvi | ielikt grozā | į krepšelį | הוסף לסל | הוספה לסל | أضف إلى السلة | أضف للسلة
thêm vào giỏ hàng | mua ngay | tambah ke keranjang | beli sekarang | beli | añadir a la cesta | añadir | aggiungi | ajouter
adicionar | in den einkaufswagen | merken | auf den merkzettel | auf die merkliste | zur wunschliste | vergleichen | comparer
confronta | comparar | vergelijken | jämför | porównaj | porovnat | сравнить | в избранное | お気に入り | お気に入りに追加 | 查看 | 收藏 | 对比
장바구니 담기 | 구매하기 | 찜하기 | 비교하기 | カートに入れる | 購入 | 购买 | 加入购物车 | 立即购买 | 구매 | 장바구니
""",
    # What a link says that leads to a file, by its format or its size.
    "files": """
jpg | jpeg | png | gif | webp | tif | tiff | svg | eps | pdf | psd | raw | source code | high resolution | high-res
hi-res | hires | full resolution | full-res | low resolution | low-res | web resolution | print resolution | high res
low res | hochauflösend | haute résolution | haute définition | alta resolución | alta risoluzione | hoge resolutie
""",
    # What stands over a remark in a text.
    "remarks": """
note | tip | hint | warning | caution | important | attention | danger | remarque | astuce | hinweis | anmerkung | tipp
achtung | warnung | nota | consejo | advertencia | attenzione | suggerimento | opmerking | waarschuwing | uwaga | wskazówka
poznámka | примечание | внимание | 注意 | 注記 | 备注 | 提示 | 참고
""",
    # What a link says that leads to the page of what it stands beside.
    "read_on": """
details | view details | view detail | see details | view | more | more info | more information | more details
read more | learn more | see more | find out more | continue reading | read on | read | open | visit | visit page
mehr | mehr lesen | weiterlesen | mehr erfahren | ansehen | zum artikel | zum produkt | lire la suite | en savoir plus
voir | voir plus | voir le produit | détails | leer más | ver más | ver | ver detalles | saiba mais | leia mais
leggi tutto | leggi di più | scopri | scopri di più | dettagli | vedi | lees meer | lees verder | bekijk | läs mer
visa | les mer | læs mere | lue lisää | czytaj więcej | więcej | zobacz | více | подробнее | читать далее | смотреть
zobacz więcej | czytaj dalej | číst více | číst dál | zobrazit detail | čítať viac | detail | bővebben | tovább olvasom
részletek | citește mai mult | detalii | vezi detalii | прочети повече | виж повече | περισσότερα | διαβάστε περισσότερα | devamını oku
detaylar | detayları gör | детальніше | читати далі | подробнее… | pročitaj više | opširnije | preberi več | loe edasi | lasīt vairāk
skaityti daugiau | se mer | se mere | vis mere | vis produkt | till produkten | lue lisää… | katso | קרא עוד | לפרטים נוספים
اقرأ المزيد | المزيد | بیشتر | ادامه مطلب | xem thêm | xem chi tiết | chi tiết | selengkapnya | baca selengkapnya | lihat detail
詳しく見る | くわしく見る | 詳しくはこちら | 商品詳細 | 查看更多 | 了解更多 | 자세히 보기 | 더보기 | 상세보기
詳細 | 詳細を見る | もっと見る | 続きを読む | 详情 | 查看详情 | 更多 | 阅读更多 | 더 보기
""",
    "badges": """
new | new! | sale | sale! | offer | special offer | hot | bestseller | best seller | featured | popular | trending | recommended
limited | limited edition | exclusive | sold out | sold | out of stock | in stock | available | unavailable | coming soon
pre-order | top ad | promoted | urgent | reduced | free | free shipping | no reviews | no reviews yet | be the first to review | add a review | promo | promotion | sponsored | ad | advertisement | verified | online | offline
neu | angebot | ausverkauft | auf lager | sonderangebot | anzeige
nouveau | soldes | épuisé | en stock | nuevo | oferta | agotado | rebajas | nuovo | offerta | esaurito | novo | nowość | wyprzedaż
uitverkocht | aanbieding | nieuw | korting | actie | rea | slutsåld | nyhet | slut i lager | i lager | nyhed | tilbud | udsolgt
på lager | utsolgt | uutuus | tarjous | loppuunmyyty | promocja | wyprzedane | novinka | akce | sleva | výprodej
vyprodáno | skladem | akcia | zľava | vypredané | skladom | új | akció | akciós | elfogyott | nou | reducere | ofertă | stoc epuizat
ново | промоция | изчерпано | νέο | προσφορά | εξαντλήθηκε | yeni | indirim | kampanya | tükendi | хит | хит продаж | акция
скидка | распродажа | нет в наличии | в наличии | акція | знижка | немає в наявності | sniženo | akcija | rasprodano | razprodano
neuheit | reduziert | topseller | nicht verfügbar | sofort lieferbar | lieferbar | nouveauté | exclusivité | rupture de stock
novedad | novità | saldi | promoção | esgotado | lançamento | חדש | מבצע | אזל מהמלאי | جديد | عرض | تخفيض | نفذت الكمية
mới | giảm giá | hết hàng | baru | diskon | habis | 热卖 | 促销 | 特价 | 售罄 | 缺货 | 新着 | 新商品 | 人気 | 送料無料 | 在庫あり | 売り切れ | 再入荷 | 신상품
세일 | 품절 | 베스트 | 신제품 | новинка | 新品 | 特価 | セール
""",
    "pictures": """
photo | photos | photograph | picture | pic | image | images | img | thumbnail | thumb | preview image | product image
product photo | placeholder | untitled | no title | no name | no image | no photo | none | null | undefined | n/a | unknown | logo
icon | avatar | profile picture | profile photo | cover | cover image | front | back | slide | banner | card image
card image cap | image caption | before | after | vorher | nachher | avant | après | antes | después | depois | alt | alt text | description | featured image | user avatar | no description
no alt text | no alternative text | no image description | no description available
no description has been provided for this image | no alt text provided for this image | no photo description available
foto | bild | bilder | abbildung | immagine | imagen | imagem | afbeelding | billede | kuva | zdjęcie | obrázek
фото | изображение | 写真 | 画像 | 图片 | 照片 | 사진
""",
    # What stands over further pictures of one thing.
    "galleries": """
more views | more photos | more images | more pictures | additional images | attached images | attached thumbnails
weitere ansichten | weitere bilder | mehr ansichten | mehr bilder | plus de vues | plus d'images | en images | más vistas
más fotos | más imágenes | altre viste | altre immagini | meer foto's | meer afbeeldingen | więcej zdjęć | další obrázky
""",
    # How a heading begins over pictures of other things than the one that a page is about.
    "others": """
related | similar | you may also | you might also | you may like | you might like | you'll also | you will also | more like this
more from | customers also | customers who | people also | others also | recommended | we recommend | we also recommend
recently viewed | frequently bought | often bought | bought together | shop the look | complete the look | pairs well
ähnliche | verwandte | das könnte | könnte ihnen | könnte dir | wird oft | kunden kauf | kunden, die | kunden haben
andere kunden | zuletzt angesehen | weitere produkte | weitere artikel | passend dazu | wir empfehlen | produits similaires | produits associés | articles similaires | articles associés | vous aimerez
vous pourriez | dans la même | déjà vus | productos relacionados | relacionados | artículos relacionados | también te | te puede interesar
te podría | productos similares | prodotti correlati | articoli correlati | prodotti simili | potrebbe interessarti | potrebbero | ti potrebbe
produtos relacionados | produtos semelhantes | você também | também pode | quem viu | gerelateerde | vergelijkbare | misschien vind
anderen bekeken | bekijk ook | relaterade | liknande | du kanske | relaterte | relaterede | lignende | du vil måske | du liker kanskje
aiheeseen liittyvät | samankaltaisia | podobne | powiązane | polecane | zobacz też | podobné | související | súvisiace | kapcsolódó
hasonló | produse similare | produse asemănătoare | похожие | рекомендуем | с этим товаром | схожі | подібні | подобни | σχετικά
benzer | ilgili | 関連 | おすすめ | こちらもおすすめ | 相关 | 猜你喜欢 | 为你推荐 | 相關 | 관련 | 추천
""",
    "labels": """
price | name | title | by | from | of | and | or | und | oder | et | ou | tags | category | categories | rating | quantity | qty | size | colour | color
yes | no | n/a | none | true | false | on | off | enabled | disabled | ja | nein | oui | non | sí | não
legend | see also | siehe auch | voir aussi | véase también | vedi anche | veja também | zie ook
preis | prix | precio | prezzo | preço | prijs | pris | hinta | cena | ár | preț | цена | ціна | τιμή | fiyat | מחיר | السعر | 价格 | 価格 | 가격
größe | taille | tamaño | tamanho | taglia | misura | maat | storlek | størrelse | koko | rozmiar | velikost | veľkosť | méret
mărime | размер | розмір | μέγεθος | beden | 尺寸 | サイズ | 크기 | farbe | couleur | colore | cor | kleur | färg | farve | väri | kolor
barva | szín | culoare | цвет | χρώμα | renk | 颜色 | 色 | kategorie | catégorie | categoría | categoria | categorie | kategori
""",
    # What stands before whose a picture is.
    "credits": """
photo | foto | fotos | bild | image | picture | photographer | photography | photographe | photographie | fotograf | fotografin
fotógrafo | fotógrafa | fotografía | fotografia | fotografo | fotografie | crédit | crédits | credit | credits | crédito
créditos | quelle | bildquelle | bildnachweis | source | fuente | fonte | bron | källa | kilde | lähde | źródło | zdroj | forrás
sursa | источник | джерело | източник | πηγή | kaynak | fotoğraf | valokuva | kuva | zdjęcie | zdjęcia | fot | fotó | фото
фотография | фотограф | фотографія | снимка | φωτό | φωτογραφία | צילום | تصوير | المصدر | 写真 | 写真提供 | 撮影 | 画像提供 | 出典
提供 | 摄影 | 摄 | 图片来源 | 图源 | 来源 | 圖片來源 | 사진 | 사진 제공 | 출처 | nguồn | sumber
""",
    # What a caption begins with, before its number.
    "figures": """
figure | fig | image | illustration | illus | ill | plate | pl | photo | photograph | picture | diagram | chart | map | exhibit
abbildung | abb | bild | foto | tafel | taf | figur | figuur | afbeelding | afb | figura | immagine | imagen | imagem | tavola
tav | lámina | lám | planche | carte | рис | рисунок | rys | rysunek | obr | obrázek | kuva | bilde | billede | 図 | 图 | 圖
그림
""",
    # What stands before the number that a thing has in a list, which tells it apart and names nothing.
    "numbering": """
lot | lot no | lot nr | lot number | los | lote | lotto | item no | item number | no | nr | n° | № | ref | ref no | cat | cat no
cat. no | catalogue no | catalog no | sku | id | inv | inv. no | inv.-nr | inventory no | accession no | stock no | art. nr
artikelnr | artikel-nr | best.-nr
""",
    # What a header or a label says that stands over names of people: they name a thing only where nothing else does.
    "people": """
maker | artist | person | künstler | künstlerin | hersteller | artiste | fabricant | artista | fabricante | kunstenaar | konstnär
kunstner | tillverkare | producent | taiteilija | artysta | twórca | umělec | autor | auteur | autore | művész | készítő
художник | автор | мастер | митець | καλλιτέχνης | sanatçı | umjetnik | אמן | الفنان | 作者 | 艺术家 | 藝術家 | 作家 | 制作者 | 작가
""",
    "currencies": """
usd | eur | gbp | chf | jpy | cny | rmb | sek | nok | dkk | pln | czk | huf | cad | aud | nzd | inr | brl | rub | krw | kr | zł | kč
ft | fr | lei | crown | crowns | dollar | dollars | euro | euros | pound | pounds | 元 | 円 | 원 | руб | грн
""",
    "before_prices": """
from | ab | nur | only | now | was | jetzt | dès | à partir de | desde | da | od | от | vanaf | från | fra | price | preis | prix
precio | prezzo | preço | prijs | pris | cena | цена | 価格 | rrp | uvp | each | total
""",
    "counted": """
photo | photos | pic | pics | picture | pictures | image | images | item | items | review | reviews | rating | ratings | comment | comments
like | likes | view | views | vote | votes | star | stars | minute | minutes | min | mins | min read | hour | hours | hr | hrs | day
days | week | weeks | month | months | year | years | reply | replies | answer | answers | share | shares | product | products
result | results | post | posts | left | sold | in stock
fotos | bilder | artikel | bewertungen | kommentare | minuten | avis | commentaires | vues | reseñas | opiniones | recensioni
commenti | отзывов | отзыва | отзыв | 件 | 枚 | 点 | 条 | 张
""",
    # What stands before, or behind, how long ago something was; and words for a day that is near.
    "before_ago": """
vor | il y a | hace | há | преди | пре | před | pred | acum
""",
    "before_ratings": """
rated | bewertet mit | noté
""",
    "before_offers": """
save | up to | only | just
""",
    "ago": """
ago | назад | тому | temu | geleden | fa | sedan | siden | önce | atrás | yang lalu | lalu
""",
    "near_days": """
today | yesterday | just now | heute | gestern | aujourd'hui | hier | hoy | ayer | oggi | ieri | hoje | ontem | vandaag
gisteren | idag | igår | i dag | i går | dziś | dzisiaj | wczoraj | dnes | včera | сегодня | вчера | днес | bugün | dün
""",
    # Beginnings of the names of months.
    "months": """
jan | feb | mar | apr | may | jun | jul | aug | sep | oct | nov | dec | märz | mai | okt | dez | févr | fév | avr | juin | juil | août
déc | ene | abr | ago | dic | gen | mag | giu | lug | set | ott | fev | out | янв | фев | мар | апр | мая | май | июн | июл | авг | сен
окт | ноя | дек | maj | kwi | cze | lip | sie | wrz | paź | lis | gru | sty | lut
""",
    "days": """
mon | monday | tue | tues | tuesday | wed | wednesday | thu | thurs | thursday | fri | friday | sat | saturday | sun | sunday
montag | dienstag | mittwoch | donnerstag | freitag | samstag | sonntag | lundi | mardi | mercredi | jeudi | vendredi | samedi
dimanche | lunes | martes | miércoles | jueves | viernes | sábado | domingo
""",
    "before_dates": """
posted | published | updated | on | added | from | since | date | am | le | el | veröffentlicht | publié | publicado
""",
    # Classes that say what an element's words are; the last word of the class counts.
    "side_classes": """
author | user | username | byline | by | handle | meta | date | time | timestamp | price | cost | badge | ribbon | flag | tag | tags
category | eyebrow | kicker | rating | stars | review | reviews | count | counter | like | likes | view | views | credit | copyright
sku | stock | availability | discount | sale | button | btn | cta | action | actions | role | position | job | subtitle
sub-title | subheading | sub-heading | tagline | artist | maker | creator | photographer | vendor | brand | manufacturer
year | medium | material | materials | dimensions | location | number | accession | excerpt | summary | teaser
""",
    # What leads to the next page of a list; never to the next article.
    "next": """
next | weiter | nächste | vorwärts | suivant | suivante | siguiente | siguientes | próxima | próximo | seguinte
successiva | successivo | avanti | volgende | següent | seguint | înainte | ďalej | naprej | sljedeća | sledeća | järgmine
nākamā | kitas | toliau | suivants | prossimo | verder | framåt | frem | næsta | dalej | ďalšia | ďalšie | nasledujúca | následujúca
následující stránka | următor | următoare | следващ | следващи | ileri | вперед | след | дальше | следећа | naslednja | naslednji
sljedeći | edasi | tālāk | sekantis | hurrengoa | ar aghaidh | nesaf | التالى | بعد | напред | следваща | наступна | далі | наступная | berikutnya | selanjutnya | seterusnya | tiếp | tiếp theo
trang sau | ถัดไป | अगला | পরবর্তী | بعدی | nästa | neste | næste | seuraava | następna | następny | další
následující | tovább | következő | επόμενη | επόμενο | următoarea | următorul | sonraki | التالي | הבא | далее | следующая | вперёд | 次 | 次へ | 다음
""",
    "next_pages": """
next page | older | older posts | older entries | older items | older articles | earlier posts | previous posts
previous entries | more posts | more results | more items | more products | load more | show more | see more results
next results | nächste seite | ältere | ältere beiträge | ältere einträge | mehr laden | mehr anzeigen | page suivante
articles plus anciens | plus anciens | afficher plus | charger plus | voir plus de résultats | página siguiente
entradas más antiguas | más antiguas | cargar más | mostrar más | próxima página | mais antigos | carregar mais
pagina successiva | carica altri | mostra altri | articoli precedenti | volgende pagina | oudere berichten | meer laden
pokaż więcej | załaduj więcej | další stránka | načíst další | další strana | sonraki sayfa | daha fazla | halaman berikutnya
muat lebih banyak | xem thêm | seuraava sivu | näytä lisää | neste side | næste side | vis flere | mostra di più | toon meer
laad meer | visa fler | наступна сторінка | показати ще | página seguinte | siguiente página | nästa sida | äldre inlägg | następna strona | starsze wpisy | następne | следующая страница | старые записи
показать ещё | загрузить ещё | ещё | 次のページ | 次ページ | もっと見る | 以前の記事 | 下一页 | 下一頁 | 下页 | 加载更多 | 다음 페이지 | 더 보기 | older notes
older news | previous page of results | next entries | next posts | next items | next products | view more posts
more stories | more entries | older photos | older pictures | older images | older stories | next photos | next pictures
entradas antiguas | post più vecchi | ældre indlæg | eldre innlegg | vanhemmat | næsta síða | starsze | starší příspěvky
ďalšia strana | ďalšia stránka | nasledujúca strana | következő oldal | régebbi bejegyzések | pagina următoare | articole mai vechi
следваща страница | επόμενη σελίδα | παλαιότερα | παλαιότερες αναρτήσεις | eski yazılar | önceki yazılar | sledeća strana
следећа страна | sljedeća stranica | starije objave | naslednja stran | järgmine leht | vanemad postitused | nākamā lapa
kitas puslapis | pàgina següent | hurrengo orria | páxina seguinte | an chéad leathanach eile | tudalen nesaf | העמוד הבא
לעמוד הבא | הדף הבא | الصفحة التالية | صفحه بعد | صفحه بعدی | अगला पृष्ठ | หน้าถัดไป | trang tiếp | trang tiếp theo | trang kế
后一页 | 後一頁 | 下頁 | 后页 | 後頁 | 次のページへ | 次のページへ進む | 다음페이지 | ladda fler | läs in fler | visa mer | hent flere | indlæs flere
vis mere | vis mer | last inn flere | lataa lisää | wczytaj więcej | zobrazit další | zobrazit více | načítať ďalšie
zobraziť ďalšie | több betöltése | továbbiak betöltése | több megjelenítése | mutass többet | încarcă mai multe
afișează mai multe | vezi mai multe | φόρτωση περισσότερων | εμφάνιση περισσότερων | daha fazla göster | daha fazla yükle
показать еще | загрузить еще | завантажити ще | зареди още | prikaži više | učitaj još | prikaži več | rādīt vairāk | rodyti daugiau
näita rohkem | טען עוד | הצג עוד | عرض المزيد | تحميل المزيد | 查看更多 | 显示更多 | 載入更多 | 顯示更多 | さらに表示 | もっと読み込む | 더보기
더 불러오기 | tải thêm | lihat lainnya | mostrar mais | carica altro | vedi altro
next images | next records | next hits | next lots | next titles | next objects | next works | next listings
""",
    # What brings more of a list, with what that is a list of in place of the dots.
    "more_of": """
show more … | show me more … | load more … | view more … | see more … | get more … | display more … | browse more …
mehr … laden | mehr … anzeigen | mehr … zeigen | weitere … laden | weitere … anzeigen | weitere … zeigen
voir plus de … | afficher plus de … | charger plus de … | ver más … | cargar más … | mostrar más … | ver mais …
carregar mais … | mostrar mais … | carica altri … | carica altre … | mostra altri … | mostra altre … | vedi altri …
vedi altre … | mostra più … | meer … laden | meer … tonen | toon meer … | laad meer … | pokaż więcej … | załaduj więcej …
zobacz więcej … | visa fler … | ladda fler … | vis flere … | indlæs flere … | näytä lisää … | načíst další …
zobrazit další … | показать ещё … | показать еще … | загрузить ещё … | загрузить еще … | daha fazla … göster
""",
    # And what a button says that does; a link that says so may lead to any other list.
    "more_by_button": """
more … | mehr … | weitere … | plus de … | más … | mais … | altri … | altre … | meer … | więcej … | fler … | flere …
další … | ещё … | еще …
""",
    # Of this there is more as well, and it is no list.
    "no_lists": """
actions | menu | tools | languages | categories | topics | sections | services | settings | share | sharing | ways | links | help | pages | aktionen | funktionen | menü
detail | details | info | infos | information | option | options | filter | filters | text | about | less | comments
replies | reviews | answers | description | like | informationen | optionen | kommentare | bewertungen | beschreibung
détails | informations | filtres | commentaires | avis | réponses | detalles | información | opciones | filtros
comentarios | reseñas | respuestas | detalhes | informações | opções | avaliações | dettagli | informazioni | opzioni
filtri | commenti | recensioni | reacties | szczegóły | komentarze | detaljer | kommentarer | подробности | отзывы
комментарии
""",
}
