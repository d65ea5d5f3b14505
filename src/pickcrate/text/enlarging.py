"""What a link says that leads to a picture in full size, in the languages of the pages that people collect from."""

from functools import lru_cache

from pickcrate.text.lazyre import lazy

_LONGEST = 60
_WORD = lazy(r"[^\W\d_]+")
_SIDES = lazy(r"\d{3,5}\s*[x×]\s*\d{3,5}")

_ENOUGH = frozenset(
    """
original originals fullsize fullsized hires hirez highres enlarge enlarged enlargement magnify zoom download
uncropped originalgröße originalbild originaldatei großansicht grossansicht großbild vergrößern vergrössern
vergrößerung vollbild herunterladen vollansicht downloaden agrandir agrandissement originale télécharger ampliar
ampliación descargar ingrandisci ingrandire scarica baixar descarregar transferir vergroten vergroot origineel
orig förstora forstør forstørr suurenna lataa alkuperäinen täysikokoinen powiększ powiększenie pobierz oryginał
oryginalny zvětšit stáhnout originál zväčšiť stiahnuť nagyítás nagyít letöltés eredeti mărește descarcă
увеличить увеличение оригинал скачать збільшити оригінал завантажити увеличи изтегли μεγέθυνση λήψη büyüt indir
orijinal povećaj preuzmi uvećaj povečaj prenesi suurenda palielināt padidinti הגדל הגדלה הורד הורדה تكبير تحميل
تنزيل unduh perbesar 拡大 拡大する 拡大表示 拡大画像 原寸大 原寸 原寸大で見る オリジナル オリジナルサイズ 元画像
元のサイズ ダウンロード 画像をダウンロード 大きい画像 大图 大圖 查看大图 查看大圖 原图 原圖 查看原图 查看原圖
下载 下載 下载原图 下载图片 放大 全图 크게보기 원본 원본보기 확대 다운로드 suuremmaksi powiększyć zvětšíte zvětšení
zväčšíte zväčšenie zvětšete nagyításhoz nagyítható nagyítása mări mărire увеличите увеличения збільшення увеличаване
μεγεθύνετε büyütmek büyütün uvećati uvećanje povećati povećanje povečavo povečanje להגדלה للتكبير لتكبير memperbesar
クリックで拡大 クリックで拡大表示 クリックで拡大します クリックすると拡大します クリックすると拡大表示します
クリックすると拡大表示されます クリックして拡大
画像クリックで拡大 画像をクリックで拡大 画像をクリックすると拡大します 画像をクリックすると拡大表示されます タップで拡大
点击放大 点击图片放大 点击看大图 点击查看大图
点击查看原图 单击放大 單擊放大 點擊放大 點擊看大圖 點擊查看大圖 點圖放大 點圖可放大 확대됩니다 커집니다
""".casefold().split()
)
"""words that say so by themselves"""

_LARGE = frozenset(
    """
full large larger largest big bigger high hi higher max maximum maximal actual complete groß große großes großer
grosse größer größeres voller volle hohe hoher grand grande réelle pleine haute grandes completo completa alta
alto máxima reale naturale massima groot grote groter volledige volledig hoge ware stor stort större større högupplöst
fuld fulde hel helt isompi iso täysi koko pełny pełnym duże duży większe plná plné plný velký větší plnej teljes
nagy nagyobb mare completă полный полном большой большое большая повний повному пълен πλήρες πλήρης μεγάλη tam
büyük pun puna puni veliki večja polna tải lớn penuh 크게
""".casefold().split()
)
"""words that say so of what stands beside them"""

_MEANT = frozenset(
    """
size sized scale resolution res tamanho grandezza image images picture photo photograph version view format
quality definition file copy größe auflösung bild bildes foto fotos bilder ansicht taille résolution définition
écran vue fichier tamaño resolución imagen vista fichero archivo dimensione dimensioni risoluzione immagine
dimensões resolução imagem arquivo ficheiro grootte resolutie afbeelding formaat storlek upplösning bilden
størrelse opløsning oppløsning billede billedet bilde bildet kuva kuvana rozmiar rozmiarze rozdzielczość zdjęcie
obraz plik velikost velikosti rozlišení obrázek fotografie soubor veľkosť méret méretben kép felbontás
dimensiune imagine imaginea rezoluție размер размере разрешении изображение фото файл розмір розмірі зображення
μέγεθος εικόνα boyut boyutlu resim görsel veličina slika slike לגודל תמונה תמונות מלא بالحجم الكامل الصورة صورة
حجم ảnh hình xuống về ukuran gambar 이미지 사진 보기
""".casefold().split()
)
"""what they stand beside"""

_KNOWN = _ENOUGH | _LARGE | _MEANT

_BESIDE = frozenset(
    """
view see show open click tap press get save to in at the this of for as a an here with your and jpg jpeg png gif
tif tiff webp mb kb gb px pixels x als das dieses ansehen anzeigen öffnen zeigen zum hier klicken voir en la le l
à afficher ver el de da do em vedi apri di bekijk op deze toon visa i som vis se den det avaa näytä zobacz
zobrazit otevřít v megnyitás megtekintés vezi показать открыть смотреть посмотреть в переглянути показати
προβολή göster görüntüle pogledaj prikaži ner ned xem on image's please version by clicking pressing tapping onto
klicke klicken klick anklicken sie auf zur zu um bitte durch mit das den der die dem eines cliquez cliquer
clic cliquant
pour sur ici ce cette un une haz haga hacer pulse pulsa pulsar pinche pincha para sobre aquí clicca cliccare clicchi
cliccando fai per sull sulla qui su clique carregue na aqui uma klik klikken om te voor de het een hier klicka för
att på här klikk klikkaa napsauta her at å og kliknij aby by żeby na klikněte klikni kliknutím kliknete kliknite pro
pre kattintson kattints kattintásra az faceți pe pentru нажмите нажми кликните кликни щелкните щёлкните чтобы для на
натисніть клацніть щоб кликнете натиснете за да κάντε κλικ πατήστε για να στην tıklayın tıkla tıklayınız için üzerine
לחצו לחץ כדי על انقر اضغط على klik untuk pada 클릭하면 클릭하여 클릭하시면 클릭 누르면 이미지를 사진을
""".casefold().split()
)

_NOUNS = _MEANT.union("view voir ver vedi bekijk visa vis zobacz".split())
"""what words for large may stand beside: "view large" says it as "large view" does"""

_PHRASES = frozenset(
    (
        "last ned", "ladda ner", "ladda hem", "hent", "tải về", "tải xuống", "phóng to", "xem ảnh lớn", "en grand",
        "en grande", "in grande",
    )
)  # fmt: skip


@lru_cache(maxsize=4_096)
def says_full_size(text: str) -> bool:
    """Tell whether a short text says that a picture in full size is where it leads, and nothing else.

    "View full size", "Download original (2.1 MB)", "En grand"; and not "Full list", "Original recipe".
    """
    if len(text) > _LONGEST:
        return False
    words = _WORD.findall(text.casefold().replace("i\u0307", "i"))  # of a Turkish capital
    if " ".join(words) in _PHRASES:
        return True
    told = {word for word in words if word not in _BESIDE}
    if not told or not told <= _KNOWN:
        return False
    if told.isdisjoint(_LARGE):
        return not told.isdisjoint(_ENOUGH)
    return not _NOUNS.isdisjoint(words) or not told.isdisjoint(_ENOUGH) or _SIDES.search(text) is not None
